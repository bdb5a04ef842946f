import { and, eq, inArray, notInArray } from 'drizzle-orm';
import type { CheckResult } from '#core/plan/check.ts';
import { database, inTransaction } from './database.ts';
import { checkResults } from './tables/data-sets.ts';

/** What a check came to the last time; `untried` where it could not be, with the reason in `found`. */
export type TriedCheck = Omit<CheckResult, 'state'> & {
  readonly state: CheckResult['state'] | 'untried';
  readonly holds: boolean;
};

/** Remembers what the checks of a data set came to, in place of what they did before. */
export async function storeChecks(dataSetId: string, at: Date, tried: readonly TriedCheck[]): Promise<void> {
  await inTransaction(async (transaction) => {
    await transaction.delete(checkResults).where(
      and(
        eq(checkResults.dataSetId, dataSetId),
        notInArray(
          checkResults.name,
          tried.map(({ name }) => name),
        ),
      ),
    );
    for (const { name, state, failing, of, found } of tried) {
      const result = { at, state, failing, of, found };
      await transaction
        .insert(checkResults)
        .values({ dataSetId, name, ...result })
        .onConflictDoUpdate({ target: [checkResults.dataSetId, checkResults.name], set: result });
    }
  });
}

export type StoredCheck = typeof checkResults.$inferSelect;

/** What the checks of some data sets came to, in one question. */
export async function checksOf(dataSetIds: readonly string[]): Promise<StoredCheck[]> {
  if (dataSetIds.length === 0) return [];
  return database()
    .select()
    .from(checkResults)
    .where(inArray(checkResults.dataSetId, [...dataSetIds]))
    .orderBy(checkResults.name);
}
