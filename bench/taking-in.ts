/* Taking files in, from their bytes to a data set that readers see, against DuckDB's own reading and Parquet writing. */
import { randomUUID } from 'node:crypto';
import { copyFileSync, mkdirSync, rmSync, statSync } from 'node:fs';
import path from 'node:path';
import { DuckDBInstance } from '@duckdb/node-api';
import { cacheFolder } from '#server/kept/cache.ts';
import { closeDatabase, database } from '#server/store/database.ts';
import { users } from '#server/store/tables.ts';
import { uploadedFile } from '#server/uploads/files.ts';
import { acceptNew, lookAtFile } from '#server/uploads/look.ts';
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

async function compare(name: string, file: string, own: string): Promise<void> {
  const times: [number[], number[]] = [[], []];
  for (let run = 0; run <= runs; run += 1) {
    const direct = await timed(() =>
      connection.run(`COPY (${own}) TO '${folder}/direct.parquet' (FORMAT parquet, COMPRESSION zstd)`),
    );
    copyFileSync(file, uploadedFile('bench'));
    const ours = await timed(async () => {
      const seen = await lookAtFile('bench');
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
    `${name.padEnd(46)} ${direct.toFixed(0)} ms, ${ours.toFixed(0)} ms   ×${(ours / direct).toFixed(2)}   asked: at most ×1.6`,
  );
}

const csv = path.join(folder, 'scans.csv');
await connection.run(`COPY (${scans} FROM range(${lines}) AS r(n)) TO '${csv}' (HEADER)`);
await compare(
  `taking in ${(statSync(csv).size / 1e6).toFixed(0)} MB of CSV, DuckDB and ours`,
  csv,
  `SELECT * FROM read_csv('${csv}')`,
);
const json = path.join(folder, 'scans.ndjson');
await connection.run(
  `COPY (${scans} FROM range(${Math.floor(lines / 2)}) AS r(n)) TO '${json}' (FORMAT json)`,
);
await compare(
  `taking in ${(statSync(json).size / 1e6).toFixed(0)} MB of NDJSON, DuckDB and ours`,
  json,
  `SELECT * FROM read_json('${json}')`,
);
console.log(`memory of this process ${(process.memoryUsage().rss / 1e6).toFixed(0)} MB`);
connection.closeSync();
instance.closeSync();
rmSync(folder, { recursive: true, force: true });
await closeDatabase();
