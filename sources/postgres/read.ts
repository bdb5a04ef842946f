import pg from 'pg';
import Cursor from 'pg-cursor';
import type { RecordsPlan } from '#core/plan/plan.ts';
import { compile } from '#core/sql/compile.ts';
import { postgres } from '#core/sql/dialect/postgres/dialect.ts';
import type { Cell } from '#core/value/field/value.ts';
import { ProblemError } from '#core/value/problem/problem.ts';
import { countBytes } from '#engine/postgres/bytes.ts';
import { clientConfig, type PostgresAddress } from '#engine/postgres/pool.ts';
import { sourceProblem } from '#engine/postgres/problem.ts';
import { type FetchInto, sinceTest } from '../kind.ts';
import { copyInto } from './copy.ts';

/** Records that are read at once: few of them at first, then as many as make up a good piece. */
const firstAtOnce = 500;
const mostAtOnce = 5000;
const pieceBytes = 8_000_000;
/** No piece, and so no value, is larger than this. */
const mostPieceBytes = 64_000_000;

/** Fetches every record of a request, from one moment of the database. */
export const fetchPostgres =
  (address: PostgresAddress, source: string): FetchInto =>
  async (writer, { request, fields, inputs, since, doing, progress }) => {
    const plan: RecordsPlan = {
      kind: 'records',
      from: { source, request, inputs, fields },
      where: since ? { field: since.field, test: sinceTest(since) } : { all: [] },
      zone: 'UTC',
      fields: fields.map(({ name }) => name),
      order: [],
      offset: 0,
      limit: Number.MAX_SAFE_INTEGER,
    };
    const records = await copyInto(writer, address, plan, { doing, progress });
    return {
      records,
      rejected: async (written) => {
        if (written === null || written === records) return { count: 0, examples: [] };
        throw new ProblemError({
          code: 'internal',
          doing,
          why: `${records} records came, and ${written} were written`,
          mend: 'Readers keep the records before. Tell whoever runs this installation.',
        });
      },
    };
  };

/**
 * Reads every record of a plan, some at a time, from one read-only transaction, so that they are of one moment.
 * What is read waits until it is taken: no more than one batch, of `most` records, is in memory. Throws a `ProblemError`.
 */
export async function readPlan(
  address: PostgresAddress,
  plan: RecordsPlan,
  doing: string,
  take: (records: Cell[][]) => Promise<void>,
  most = mostAtOnce,
): Promise<void> {
  const { text, values } = compile(plan, postgres);
  const client = new pg.Client(clientConfig(address));
  client.on('error', () => undefined);
  try {
    await client.connect();
    await client.query('BEGIN TRANSACTION READ ONLY ISOLATION LEVEL REPEATABLE READ');
    await client.query('SET LOCAL statement_timeout = 0');
    const cursor = client.query(new Cursor<Cell[]>(text, values as unknown[], { rowMode: 'array' }));
    const bytes = countBytes(client, mostPieceBytes, doing);
    let atOnce = Math.min(most, firstAtOnce);
    for (;;) {
      const records = await cursor.read(atOnce);
      if (records.length === 0) break;
      const each = Math.max(1, bytes.take() / records.length);
      atOnce = Math.min(most, Math.max(1, Math.floor(pieceBytes / each)));
      await take(records);
    }
    bytes.stop();
    await cursor.close();
  } catch (thrown) {
    throw thrown instanceof ProblemError ? thrown : sourceProblem(thrown, doing);
  } finally {
    void client.end().catch(() => undefined);
  }
}
