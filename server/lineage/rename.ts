import { eq } from 'drizzle-orm';
import { migrateDashboard, migrateDataSet } from '#core/dashboard/migrate.ts';
import { withOutcome } from '#core/dataset/outcome.ts';
import { freeStepId } from '#core/dataset/step/free-id.ts';
import {
  dashboardFollowing,
  followingRename,
  type NamedDashboard,
  withFieldRenamed,
} from '#core/lineage/uses.ts';
import { ProblemError } from '#core/value/problem/problem.ts';
import { database, inTransaction } from '../store/database.ts';
import { dashboards } from '../store/tables/dashboards.ts';
import { dataSets } from '../store/tables/data-sets.ts';

/** Every dashboard's draft. */
export async function allDrafts(): Promise<NamedDashboard[]> {
  const rows = await database().select({ id: dashboards.id, draft: dashboards.draft }).from(dashboards);
  return rows.map(({ id, draft }) => ({ id, dashboard: migrateDashboard(draft) }));
}

/**
 * Gives a field another name and carries it through every data set and every draft that names it: all or nothing. What is
 * published stays as it is until it is published again. Throws a {@link ProblemError} where the name is taken or gone.
 */
export async function renameEverywhere(id: string, from: string, to: string, by: string): Promise<void> {
  await inTransaction(async (transaction) => {
    const sets = await transaction.select().from(dataSets).for('update');
    const drafts = await transaction.select().from(dashboards).for('update');
    const world = new Map(sets.map((row) => [row.id, migrateDataSet(row.definition)]));
    const own = world.get(id);
    const refused = (why: string): ProblemError =>
      new ProblemError({ code: 'bad-request', doing: 'renaming a field', why, mend: 'Choose another name.' });
    if (!own?.fields.some(({ name }) => name === from)) throw refused(`there is no field “${from}” any more`);
    if (own.fields.some(({ name }) => name === to)) throw refused(`there is a field “${to}” already`);
    const saved = { savedAt: new Date(), savedBy: by };
    const renamed = withOutcome(withFieldRenamed(own, from, to, freeStepId(own.steps ?? [])), world);
    world.set(id, renamed);
    for (const row of sets) {
      const before = world.get(row.id);
      if (!before) continue;
      const after = row.id === id ? renamed : followingRename(before, id, from, to);
      if (JSON.stringify(after) === JSON.stringify(migrateDataSet(row.definition))) continue;
      await transaction
        .update(dataSets)
        .set({ definition: withOutcome(after, world), revision: row.revision + 1, ...saved })
        .where(eq(dataSets.id, row.id));
    }
    for (const row of drafts) {
      const before = migrateDashboard(row.draft);
      const after = dashboardFollowing(before, id, from, to);
      if (JSON.stringify(before) === JSON.stringify(after)) continue;
      await transaction
        .update(dashboards)
        .set({ draft: after, revision: row.revision + 1, ...saved })
        .where(eq(dashboards.id, row.id));
    }
  });
}
