import { and, eq, sql } from 'drizzle-orm';
import { counted } from '#core/value/format/counted.ts';
import { ProblemError } from '#core/value/problem/problem.ts';
import { askedToWait, type Budget } from '#sources/outgoing/client.ts';
import { database } from '../store/database.ts';
import { allowances } from '../store/tables/sources.ts';

const today = (now: Date): string => now.toISOString().slice(0, 10);

/** What is left of a day's calls. */
export interface Allowance {
  readonly spent: number;
  /** As the service itself last told it. */
  readonly leftThere: number | null;
  /** ISO 8601; the service asked for no calls before this. */
  readonly pausedUntil: string | null;
}

/**
 * Counts a source's calls against its daily allowance, in the database, so that all processes share it. A call is taken
 * before it is made: one that is refused has not been made. Throws a {@link ProblemError} when there is none left.
 */
export function budgetOf(sourceId: string, perDay: number | undefined, now: () => Date): Budget {
  return {
    async spend(doing) {
      const day = today(now());
      const [row] = await database()
        .insert(allowances)
        .values({ sourceId, day, spent: 1 })
        .onConflictDoUpdate({
          target: [allowances.sourceId, allowances.day],
          set: { spent: sql`${allowances.spent} + 1` },
          setWhere: and(
            perDay === undefined ? undefined : sql`${allowances.spent} < ${perDay}`,
            sql`(${allowances.pausedUntil} IS NULL OR ${allowances.pausedUntil} <= ${now().toISOString()}::timestamptz)`,
          ),
        })
        .returning({ spent: allowances.spent });
      if (row) return;
      const { pausedUntil } = await allowanceOf(sourceId, now());
      if (pausedUntil !== null && Date.parse(pausedUntil) > now().getTime())
        throw askedToWait(doing, new Date(pausedUntil));
      throw new ProblemError({
        code: 'too-much',
        doing,
        why: `today’s allowance of ${counted(perDay ?? 0, 'call')} is used up`,
        mend: 'It starts again at midnight (UTC). What was fetched before is still shown; raise the allowance if the service allows more.',
      });
    },
    async told({ left, until }) {
      await database()
        .update(allowances)
        .set({ ...(left === null ? {} : { told: left }), ...(until ? { pausedUntil: until } : {}) })
        .where(and(eq(allowances.sourceId, sourceId), eq(allowances.day, today(now()))));
    },
  };
}

export async function allowanceOf(sourceId: string, now: Date): Promise<Allowance> {
  const [row] = await database()
    .select()
    .from(allowances)
    .where(and(eq(allowances.sourceId, sourceId), eq(allowances.day, today(now))));
  return {
    spent: row?.spent ?? 0,
    leftThere: row?.told ?? null,
    pausedUntil: row?.pausedUntil?.toISOString() ?? null,
  };
}

/** How many calls of each source are spent today; a source that was not called is not among them. */
export async function spentToday(now: Date): Promise<Map<string, number>> {
  const rows = await database()
    .select({ sourceId: allowances.sourceId, spent: allowances.spent })
    .from(allowances)
    .where(eq(allowances.day, today(now)));
  return new Map(rows.map(({ sourceId, spent }) => [sourceId, spent]));
}

/** The calls of each source in the last days, the latest first. */
export function spentByDay(sourceId: string, days = 14): Promise<{ day: string; spent: number }[]> {
  return database()
    .select({ day: allowances.day, spent: allowances.spent })
    .from(allowances)
    .where(eq(allowances.sourceId, sourceId))
    .orderBy(sql`${allowances.day} DESC`)
    .limit(days);
}
