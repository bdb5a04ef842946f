import { createWriteStream } from 'node:fs';
import { pipeline } from 'node:stream/promises';
import pg from 'pg';
import { to as copyTo } from 'pg-copy-streams';
import type { RecordsPlan } from '#core/plan/plan.ts';
import { compile } from '#core/sql/compile.ts';
import { postgresLiterals } from '#core/sql/dialect/postgres/literal.ts';
import { diskProblem, ProblemError } from '#core/value/problem/problem.ts';
import type { Staging } from '#engine/columnar/staging.ts';
import { tooManyBytes } from '#engine/postgres/bytes.ts';
import { clientConfig, type PostgresAddress } from '#engine/postgres/pool.ts';
import { sourceProblem } from '#engine/postgres/problem.ts';

/** No record is larger than this. */
const mostRecordBytes = 64_000_000;
const lineEnd = 0x0a;

/** Counts lines as they go by, and finds the longest, in bytes. */
class LineCount {
  lines = 0;
  longest = 0;
  /** Bytes of the line that is not over yet. */
  open = 0;

  add(piece: Buffer): void {
    let start = 0;
    for (let end = piece.indexOf(lineEnd); end >= 0; end = piece.indexOf(lineEnd, start)) {
      this.lines += 1;
      this.longest = Math.max(this.longest, this.open + end - start);
      this.open = 0;
      start = end + 1;
    }
    this.open += piece.length - start;
  }
}

/**
 * Stages every record of a plan in a writer, as PostgreSQL itself writes them out (COPY), so that no value is a value of
 * ours on the way. They are of one moment. Returns how many they are. Throws a `ProblemError`.
 */
export async function copyInto(
  writer: Staging,
  address: PostgresAddress,
  plan: RecordsPlan,
  { doing, progress }: { readonly doing: string; readonly progress: (records: number) => Promise<void> },
): Promise<number> {
  const { text } = compile(plan, postgresLiterals);
  const file = writer.place('copied.txt');
  const count = new LineCount();
  const client = new pg.Client(clientConfig(address));
  client.on('error', () => undefined);
  try {
    await client.connect();
    await client.query('BEGIN TRANSACTION READ ONLY ISOLATION LEVEL REPEATABLE READ');
    await client.query('SET LOCAL statement_timeout = 0; SET LOCAL standard_conforming_strings = on');
    await pipeline(
      client.query(copyTo(`COPY (${text}) TO STDOUT (FORMAT text, ENCODING 'UTF8')`)),
      async function* (pieces: AsyncIterable<Buffer>) {
        for await (const piece of pieces) {
          const before = count.lines;
          count.add(piece);
          if (count.open > mostRecordBytes) throw tooManyBytes(doing, mostRecordBytes);
          await progress(count.lines - before);
          yield piece;
        }
      },
      createWriteStream(file, { mode: 0o600 }),
    );
  } catch (thrown) {
    if (thrown instanceof ProblemError) throw thrown;
    throw diskProblem(thrown, doing) ?? sourceProblem(thrown, doing);
  } finally {
    void client.end().catch(() => undefined);
  }
  await writer.stageCopied(file, count.longest);
  return count.lines;
}
