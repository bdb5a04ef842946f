import {
  appendFileSync,
  existsSync,
  mkdirSync,
  readFileSync,
  renameSync,
  rmSync,
  statSync,
  writeFileSync,
} from 'node:fs';
import path from 'node:path';
import { gzipSync } from 'node:zlib';
import { vessels } from '#demo/line.ts';
import type { PassageLine } from './passage-line.ts';

/* The log writers: gate scanners, the passage service's web server, engine telemetry. They go on where they ended. */

const backlogMs = 36 * 3_600_000;
const telemetryMs = 60_000;
/** Bytes at which a file is put aside and packed. */
const rotateAt = 8_000_000;

export interface Writers {
  /** Writes what has happened since the last time. */
  write(now: Date): void;
}

export function logWriters(folder: string, line: PassageLine): Writers {
  for (const name of ['gates', 'web', 'engines']) mkdirSync(path.join(folder, name), { recursive: true });
  const mark = path.join(folder, '.written');
  const append = (file: string, text: string): void => {
    if (text === '') return;
    const place = path.join(folder, file);
    if (existsSync(place) && statSync(place).size > rotateAt) {
      renameSync(place, `${place}.1`);
      writeFileSync(`${place}.${Date.now()}.gz`, gzipSync(readFileSync(`${place}.1`)));
      rmSync(`${place}.1`);
    }
    appendFileSync(place, text);
  };
  return {
    write(now) {
      const known = existsSync(mark) ? Number(readFileSync(mark, 'utf8')) : 0;
      const from = new Date(Math.max(known, now.getTime() - backlogMs));
      const lines = (texts: readonly string[]): string => texts.map((text) => `${text}\n`).join('');
      const after = (step: number): boolean => step * 20_000 > from.getTime();
      const steps = line.steps(from, now).filter(after);
      append('web/access.log', lines(steps.map((step) => line.accessLine(step))));
      const scanned = line.steps(new Date(from.getTime() - 1_200_000), new Date(now.getTime() - 1_200_000));
      append(
        'gates/scans.ndjson',
        lines(
          scanned
            .filter((step) => step * 20_000 + 1_200_000 > from.getTime())
            .map((step) => scanText(line, step)),
        ),
      );
      const telemetry: string[] = [];
      for (let at = Math.floor(from.getTime() / telemetryMs) + 1; at * telemetryMs <= now.getTime(); at += 1)
        for (const { name } of vessels) telemetry.push(line.telemetryLine(name, new Date(at * telemetryMs)));
      append('engines/telemetry.log', lines(telemetry));
      writeFileSync(mark, String(now.getTime()));
    },
  };
}

/** A scanner now and then writes half a line. */
function scanText(line: PassageLine, step: number): string {
  const text = JSON.stringify(line.scanOf(step));
  return step % 997 === 0 ? text.slice(0, 60) : text;
}
