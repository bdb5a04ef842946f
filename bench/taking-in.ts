/* Taking files in, from their bytes to a data set that readers see, against DuckDB's own reading and Parquet writing. */
import { randomUUID } from 'node:crypto';
import { copyFileSync, mkdirSync, rmSync, statSync } from 'node:fs';
import path from 'node:path';
import { DuckDBInstance } from '@duckdb/node-api';
import { SegmentWriter } from '#engine/columnar/writer.ts';
import { cacheFolder } from '#server/kept/cache.ts';
import { writeBeside } from '#server/kept/write.ts';
import { closeDatabase, database } from '#server/store/database.ts';
import { users } from '#server/store/tables/people.ts';
import { uploadedFile } from '#server/uploads/files.ts';
import { acceptNew, lookAtFile } from '#server/uploads/look.ts';
import { fetchLogs, tryLogs } from '#sources/logs/read.ts';
import { median, timed } from './measure.ts';

const runs = Number(process.env.BENCH_RUNS ?? 3);
const lines = 4_600_000;

const folder = path.join(cacheFolder(), 'bench');
rmSync(folder, { recursive: true, force: true });
mkdirSync(folder, { recursive: true });
const instance = await DuckDBInstance.create(':memory:', { threads: '2', memory_limit: '1GB' });
const connection = await instance.connect();
const [author] = await database().select({ id: users.id }).from(users).limit(1);

const scans = `SELECT n AS id, 'Gate ' || (1 + n % 12) AS gate, ['passed','refused','expired'][1 + (n * 7919) % 3] AS outcome,
  strftime(TIMESTAMP '2025-01-01' + to_seconds(n * 5), '%Y-%m-%dT%H:%M:%SZ') AS scanned_at, ((n * 37) % 9000) / 100.0 AS fare`;

/** Until a file's fields are shown, and if it is taken in, until its records are stored. */
async function compare(
  name: string,
  file: string,
  own: string,
  { isTakenIn, bound }: { isTakenIn: boolean; bound: string },
): Promise<void> {
  const times: [number[], number[]] = [[], []];
  for (let run = 0; run <= runs; run += 1) {
    const direct = await timed(() =>
      connection.run(`COPY (${own}) TO '${folder}/direct.parquet' (FORMAT parquet, COMPRESSION zstd)`),
    );
    copyFileSync(file, uploadedFile('bench'));
    const ours = await timed(async () => {
      const seen = await lookAtFile('bench');
      if (!isTakenIn) return;
      await acceptNew({
        id: randomUUID(),
        name: 'Bench',
        noun: { one: 'scan', many: 'scans' },
        file: 'bench',
        reading: seen.reading,
        fields: seen.fields,
        by: author?.id ?? '',
      });
    });
    if (run === 0) continue;
    times[0].push(direct);
    times[1].push(ours);
  }
  const [direct, ours] = times.map(median) as [number, number];
  console.log(
    `${name.padEnd(46)} ${direct.toFixed(0)} ms, ${ours.toFixed(0)} ms   ×${(ours / direct).toFixed(2)}   asked: at most ×${bound}`,
  );
}

/** Lines in Combined Log Format, from a file to segments that are stored. */
async function followLines(): Promise<void> {
  const logs = path.join(folder, 'logs');
  mkdirSync(logs);
  const count = 2_000_000;
  await connection.run(
    `COPY (SELECT '203.0.113.' || (n % 250) || ' - - [23/Nov/2026:06:' || lpad((n % 60)::VARCHAR, 2, '0') || ':' || lpad((n * 7 % 60)::VARCHAR, 2, '0')
       || ' +0000] "POST /passages/PSG-' || n || ' HTTP/1.1" ' || [200, 200, 409, 503][1 + n % 4] || ' ' || (n % 50000)
       || ' "https://book.skerry.example/" "SkerryApp/4.1 (handheld)"' AS line FROM range(${count}) AS r(n))
     TO '${logs}/access.log' (FORMAT csv, HEADER false, QUOTE '', ESCAPE '', DELIMITER E'\\x01')`,
  );
  const line = { kind: 'combined' as const };
  const { request, fields } = await tryLogs(
    logs,
    [logs],
    { kind: 'log', files: '*', line, columns: [] },
    false,
  );
  const took = await timed(async () => {
    const writer = await SegmentWriter.open(folder, []);
    const query = {
      request,
      inputs: {},
      fields,
      position: null,
      doing: 'measuring',
      progress: async () => undefined,
    };
    await fetchLogs(logs, [logs])(writer, query);
    await writeBeside(writer, fields, { before: null, doing: 'measuring' });
    writer.close();
  });
  console.log(
    `${`taking in ${count} log lines in Combined format`.padEnd(46)} ${took.toFixed(0)} ms   ${Math.round((count / took) * 1000)} a second   asked: 150,000 or more`,
  );
}

const csv = path.join(folder, 'scans.csv');
await connection.run(`COPY (${scans} FROM range(${lines}) AS r(n)) TO '${csv}' (HEADER)`);
await compare(
  `taking in ${(statSync(csv).size / 1e6).toFixed(0)} MB of CSV, DuckDB and ours`,
  csv,
  `SELECT * FROM read_csv('${csv}')`,
  { isTakenIn: true, bound: '1.6' },
);
const json = path.join(folder, 'scans.ndjson');
await connection.run(
  `COPY (${scans} FROM range(${Math.floor(lines / 2)}) AS r(n)) TO '${json}' (FORMAT json)`,
);
await compare(
  `taking in ${(statSync(json).size / 1e6).toFixed(0)} MB of NDJSON, DuckDB and ours`,
  json,
  `SELECT * FROM read_json('${json}')`,
  { isTakenIn: true, bound: '1.6' },
);
const small = path.join(folder, 'some-scans.ndjson');
await connection.run(`COPY (${scans} FROM range(103000) AS r(n)) TO '${small}' (FORMAT json)`);
await compare(
  `looking at ${(statSync(small).size / 1e6).toFixed(0)} MB of NDJSON, DuckDB and ours`,
  small,
  `SELECT * FROM read_json('${small}')`,
  { isTakenIn: false, bound: '2' },
);
await followLines();
console.log(`memory of this process ${(process.memoryUsage().rss / 1e6).toFixed(0)} MB`);
connection.closeSync();
instance.closeSync();
rmSync(folder, { recursive: true, force: true });
await closeDatabase();
