import { and, asc, eq, inArray, isNotNull, sql } from 'drizzle-orm';
import type { Condition } from '#core/ask/condition/schema.ts';
import { migrateDataSet } from '#core/dashboard/migrate.ts';
import { neededIds } from '#core/dataset/outcome.ts';
import type { DataSet } from '#core/dataset/schema.ts';
import { leadsTo } from '#core/lineage/reach.ts';
import { labelOf } from '#core/value/field/value.ts';
import type { SaveOutcome } from './dashboards.ts';
import { database } from './database.ts';
import { dashboards } from './tables/dashboards.ts';
import { dataSets } from './tables/data-sets.ts';
import { desks } from './tables/desks.ts';
import { users } from './tables/people.ts';
import { sources } from './tables/sources.ts';

export interface StoredDataSet {
  readonly id: string;
  readonly name: string;
  readonly revision: number;
  readonly definition: DataSet;
}

export async function listDataSets(): Promise<
  { id: string; name: string; sourceId: string; source: string; fields: number }[]
> {
  return database()
    .select({
      id: dataSets.id,
      name: dataSets.name,
      sourceId: dataSets.sourceId,
      source: sources.name,
      fields: sql<number>`jsonb_array_length(${dataSets.definition}->'fields')`,
    })
    .from(dataSets)
    .innerJoin(sources, eq(sources.id, dataSets.sourceId))
    .orderBy(asc(dataSets.name));
}

export async function findDataSet(id: string): Promise<StoredDataSet | null> {
  const [row] = await database().select().from(dataSets).where(eq(dataSets.id, id)).limit(1);
  return row
    ? { id: row.id, name: row.name, revision: row.revision, definition: migrateDataSet(row.definition) }
    : null;
}

/** The data sets with these ids, and those that their steps refer to, and so on. One question for each round of them. */
export async function findDataSets(ids: readonly string[]): Promise<Map<string, DataSet>> {
  const found = new Map<string, DataSet>();
  let wanted = [...new Set(ids)];
  while (wanted.length > 0) {
    const rows = await database().select().from(dataSets).where(inArray(dataSets.id, wanted));
    for (const row of rows) found.set(row.id, migrateDataSet(row.definition));
    const referred = [...found.values()].flatMap(neededIds);
    wanted = [...new Set(referred)].filter((id) => !found.has(id));
    // What is gone is asked for once.
    if (rows.length === 0) break;
  }
  return found;
}

/** All that has to be known to ask for the records of a data set, by id. */
export const worldOf = (dataSet: DataSet): Promise<Map<string, DataSet>> => findDataSets(neededIds(dataSet));

/** Who sees which records, by data set, for those that have a rule. */
export async function rowRules(): Promise<ReadonlyMap<string, Condition>> {
  const rows = await database()
    .select({ id: dataSets.id, rule: dataSets.rowRule })
    .from(dataSets)
    .where(isNotNull(dataSets.rowRule));
  return new Map(rows.flatMap(({ id, rule }) => (rule ? [[id, rule] as const] : [])));
}

/** Every data set, for the pages that choose among them. */
export async function allDataSets(): Promise<StoredDataSet[]> {
  const rows = await database().select().from(dataSets).orderBy(asc(dataSets.name));
  return rows.map((row) => ({
    id: row.id,
    name: row.name,
    revision: row.revision,
    definition: migrateDataSet(row.definition),
  }));
}

export async function addDataSet(added: {
  id: string;
  name: string;
  definition: DataSet;
  by: string | null;
}): Promise<void> {
  await database()
    .insert(dataSets)
    .values({
      id: added.id,
      name: added.name,
      sourceId: added.definition.source,
      definition: added.definition,
      rowRule: added.definition.rowRule ?? null,
      savedBy: added.by,
    })
    .onConflictDoNothing();
}

/** Saves over the revision that the editor started from; a save that came between is reported, not lost. */
export async function saveDataSet(change: {
  id: string;
  name: string;
  definition: DataSet;
  revision: number;
  by: string | null;
}): Promise<SaveOutcome> {
  const [saved] = await database()
    .update(dataSets)
    .set({
      name: change.name,
      definition: change.definition,
      rowRule: change.definition.rowRule ?? null,
      sourceId: change.definition.source,
      revision: change.revision + 1,
      savedAt: new Date(),
      savedBy: change.by,
    })
    .where(and(eq(dataSets.id, change.id), eq(dataSets.revision, change.revision)))
    .returning({ revision: dataSets.revision });
  if (saved) return { ok: true, revision: saved.revision };
  const [now] = await database()
    .select({ revision: dataSets.revision, at: dataSets.savedAt, by: users.name })
    .from(dataSets)
    .leftJoin(users, eq(users.id, dataSets.savedBy))
    .where(eq(dataSets.id, change.id));
  return { ok: false, revision: now?.revision ?? 0, by: now?.by ?? 'somebody', at: now?.at ?? new Date() };
}

/** The dashboards with a pane or clause of this data set. */
export async function usersOfDataSet(
  id: string,
): Promise<{ id: string; title: string; desk: string; panes: string[] }[]> {
  const uses = sql<
    string[]
  >`ARRAY(SELECT pane->>'title' FROM jsonb_array_elements(${dashboards.draft}->'panes') AS pane WHERE pane->>'dataSet' = ${id})`;
  return database()
    .select({
      id: dashboards.id,
      title: sql<string>`${dashboards.draft}->>'title'`,
      desk: desks.name,
      panes: uses,
    })
    .from(dashboards)
    .innerJoin(desks, eq(desks.id, dashboards.deskId))
    .where(
      sql`${dashboards.draft}->'panes' @> ${JSON.stringify([{ dataSet: id }])}::jsonb OR ${dashboards.draft}->'scope' @> ${JSON.stringify([{ dataSet: id }])}::jsonb`,
    );
}

/** A data set whose fields an input's values can be among. */
export interface FieldChoice {
  readonly id: string;
  readonly name: string;
  readonly fields: readonly { readonly name: string; readonly label: string }[];
}

/** Fields with values that stand for something, of every data set that can be asked without an input. */
export async function fieldChoices(): Promise<FieldChoice[]> {
  const choices = (await allDataSets()).map(({ id, name, definition: { fields, inputs } }) => ({
    id,
    name,
    fields: inputs.some(({ required }) => required)
      ? []
      : fields
          .filter(({ type, hidden }) => (type === 'text' || type === 'integer') && !hidden)
          .map((field) => ({ name: field.name, label: labelOf(field) })),
  }));
  return choices.filter(({ fields }) => fields.length > 0);
}

/** The data sets that are made of a data set or refer to it, directly or through others. */
export async function dependentsOf(id: string): Promise<StoredDataSet[]> {
  const all = await allDataSets();
  const found = leadsTo(id, new Map(all.map((each) => [each.id, each.definition])));
  return all.filter((each) => each.id !== id && found.has(each.id));
}

/** Takes a data set away with its kept records; the caller has seen to it that nothing needs it. */
export async function removeDataSet(id: string): Promise<void> {
  await database().delete(dataSets).where(eq(dataSets.id, id));
}
