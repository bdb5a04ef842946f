import { ProblemError } from '#core/value/problem/problem.ts';
import type { PostgresAddress } from '#engine/postgres/pool.ts';
import { type Called, checkSql } from './check-sql.ts';
import { withClient } from './prove.ts';
import * as statements from './statements.ts';

/** Built-in functions that are volatile only because they give another value each time. */
const harmless = new Set(['random', 'clock_timestamp', 'timeofday', 'gen_random_uuid']);
/** Built-in functions that are said to be stable and yet run a query of their own over whole tables, schemas or databases. */
const wholesale = /^(table|schema|database|cursor|query)_to_xml/;

/**
 * Why one of the functions that a text calls is not allowed, or null: only those that the source's catalog calls immutable or
 * stable, and that run as whoever asks, only read. What the catalog does not know is left for the source to refuse.
 */
export async function refusedFunction(
  address: PostgresAddress,
  called: readonly Called[],
): Promise<string | null> {
  const suspects = called.filter(({ name }) => !harmless.has(name));
  if (suspects.length === 0) return null;
  const { rows } = await withClient(address, 'checking the SQL', (client) =>
    client.query<{ name: string; volatile: boolean; definer: boolean; built_in: boolean }>(
      statements.functions,
      [suspects.map(({ schema }) => schema), suspects.map(({ name }) => name)],
    ),
  );
  const found = rows.find(
    ({ name, volatile, definer, built_in }) => volatile || definer || (built_in && wholesale.test(name)),
  );
  if (!found) return null;
  return found.definer && !found.volatile
    ? `it calls ${found.name}(), which runs with somebody else’s rights`
    : `it calls ${found.name}(), which does more than read`;
}

/**
 * SQL text that may be sent: one SELECT, of functions that only read. Throws a {@link ProblemError} that says what is wrong,
 * or that the source cannot be asked about its functions.
 */
export async function requireSql(text: string, address: PostgresAddress): Promise<string> {
  const checked = await checkSql(text);
  if (!checked.ok) throw new ProblemError(checked.problem);
  const why = await refusedFunction(address, checked.functions);
  if (why === null) return checked.text;
  throw new ProblemError({
    code: 'bad-request',
    doing: 'reading the SQL',
    why,
    mend: 'A data set only reads: leave that part out.',
  });
}
