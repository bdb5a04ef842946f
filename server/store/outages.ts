import { eq, inArray, sql } from 'drizzle-orm';
import type { Problem, ProblemCode } from '#core/value/problem/problem.ts';
import { database } from './database.ts';
import { outages, sources } from './tables/sources.ts';

/* Which sources do not answer, over all processes: what is shown of them is old meanwhile, and readers are told. */

/** What a source that does not answer comes to. */
const silences: ReadonlySet<ProblemCode> = new Set(['unreachable', 'refused', 'time-out', 'tls', 'database']);
/** What is found before a source is asked, and says nothing of it. */
const unasked: ReadonlySet<ProblemCode> = new Set(['too-much', 'stopped', 'internal']);

/**
 * Notes how asking a source went: null where it answered, with whatever; true where it is found only now not to answer. One
 * that answers with a refusal answers.
 */
export async function noteOutcome(sourceId: string, problem: Problem | null): Promise<boolean> {
  if (problem && unasked.has(problem.code)) return false;
  if (!problem || !silences.has(problem.code)) {
    await database().delete(outages).where(eq(outages.sourceId, sourceId));
    return false;
  }
  const noted = await database()
    .insert(outages)
    .values({ sourceId })
    .onConflictDoNothing()
    .returning({ since: outages.since });
  return noted.length > 0;
}

/** Those of some sources that do not answer, by name, with the moment since when (ISO 8601). */
export async function silentSources(
  ids: readonly string[],
): Promise<{ id: string; name: string; since: string }[]> {
  if (ids.length === 0) return [];
  const rows = await database()
    .select({ id: sources.id, name: sources.name, since: outages.since })
    .from(outages)
    .innerJoin(sources, eq(sources.id, outages.sourceId))
    .where(inArray(outages.sourceId, [...ids]))
    .orderBy(sql`${outages.since}, ${sources.name}`);
  return rows.map((row) => ({ ...row, since: row.since.toISOString() }));
}
