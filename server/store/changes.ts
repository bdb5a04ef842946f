import { and, desc, eq, gt, inArray, isNull, lt, ne, or, type SQL, sql } from 'drizzle-orm';
import type { Values } from '#core/change/change.ts';
import type { Way } from '#core/dataset/change/schema.ts';
import { ProblemError } from '#core/value/problem/problem.ts';
import { database } from './database.ts';
import { changeBatches, changedRecords } from './tables/changes.ts';

/* What was changed at sources, by whom and how it was before. It is only ever added to. */

export type BatchState = 'sending' | 'done' | 'refused' | 'unknown';

export interface Batch {
  readonly id: string;
  /** Where the records are (see `recordPlace`). */
  readonly place: string;
  readonly sourceId: string;
  readonly dataSetId: string;
  /** That of the records which come or go with the one that is changed; null where none do. */
  readonly linesDataSetId: string | null;
  readonly deskId: string | null;
  readonly dashboardId: string | null;
  readonly pane: string;
  readonly label: string;
  readonly way: Way;
  readonly undoes: string | null;
  readonly userId: string | null;
  readonly userName: string;
}

export interface ChangedOne {
  /** Where it is; absent: where its batch is. */
  readonly place?: string;
  readonly key: string;
  readonly title: string;
  readonly before: Values | null;
  readonly after: Values | null;
  /** Where it was sent by itself and was not made, or is not known to be; and why. */
  readonly outcome?: 'refused' | 'unknown' | null;
  readonly why?: string | null;
}

/** Notes what is about to be sent. False where it has been before, or takes back what is taken back already. */
export async function beginBatch(batch: Batch): Promise<boolean> {
  const begun = await database()
    .insert(changeBatches)
    .values({ ...batch, state: 'sending' })
    .onConflictDoNothing()
    .returning({ id: changeBatches.id });
  return begun.length > 0;
}

const rowsAtOnce = 2_000;

const tookTooLong = (): ProblemError =>
  new ProblemError({
    code: 'time-out',
    doing: 'changing records',
    why: 'it took so long that it was given up',
    mend: 'Nothing was changed. Try it with fewer records.',
  });

/** Notes what the source has done and has not ended yet, and by what it knows that. */
export async function markBatch(
  id: string,
  mark: string,
  place: string,
  records: readonly ChangedOne[],
): Promise<void> {
  await database().transaction(async (within) => {
    const marked = await within
      .update(changeBatches)
      .set({ mark })
      .where(and(eq(changeBatches.id, id), eq(changeBatches.state, 'sending')))
      .returning({ id: changeBatches.id });
    if (marked.length === 0) throw tookTooLong();
    for (let at = 0; at < records.length; at += rowsAtOnce)
      await within.insert(changedRecords).values(
        records.slice(at, at + rowsAtOnce).map((record, index) => ({
          ...record,
          batchId: id,
          place: record.place ?? place,
          position: at + index,
        })),
      );
  });
}

/** Notes what became of records that were sent one by one, in the order in which they were noted. */
export async function noteOutcomes(
  id: string,
  records: readonly Pick<ChangedOne, 'key' | 'after' | 'outcome' | 'why'>[],
): Promise<void> {
  const noted = records.map(({ key, after, outcome = null, why = null }, position) => ({
    position,
    key,
    after,
    outcome,
    why,
  }));
  await database().execute(sql`
    UPDATE ${changedRecords} AS r SET key = n.key, after = n.after, outcome = n.outcome, why = n.why
    FROM jsonb_to_recordset(${JSON.stringify(noted)}::jsonb) AS n(position int, key text, after jsonb, outcome text, why text)
    WHERE r.batch_id = ${id} AND r.position = n.position`);
}

/** Notes what became of a batch. One that ended does not end again. */
export async function endBatch(id: string, state: Exclude<BatchState, 'sending'>): Promise<void> {
  await database()
    .update(changeBatches)
    .set({ state, endedAt: new Date() })
    .where(and(eq(changeBatches.id, id), inArray(changeBatches.state, ['sending', 'unknown'])));
}

export interface StoredBatch extends Batch {
  readonly state: BatchState;
  readonly mark: string | null;
  readonly at: Date;
}

export async function findBatch(id: string): Promise<StoredBatch | null> {
  const [row] = await database().select().from(changeBatches).where(eq(changeBatches.id, id)).limit(1);
  return row ?? null;
}

/** The records of a batch in the order in which they were sent. */
export async function recordsOfBatch(id: string): Promise<ChangedOne[]> {
  const rows = await database()
    .select()
    .from(changedRecords)
    .where(eq(changedRecords.batchId, id))
    .orderBy(changedRecords.position);
  return rows.map(({ place, key, title, before, after, outcome, why }) => ({
    place,
    key,
    title,
    before: before as Values | null,
    after: after as Values | null,
    outcome,
    why,
  }));
}

/** Whether what a batch did was taken back. */
export async function isUndone(id: string): Promise<boolean> {
  const [row] = await database()
    .select({ id: changeBatches.id })
    .from(changeBatches)
    .where(and(eq(changeBatches.undoes, id), ne(changeBatches.state, 'refused')))
    .limit(1);
  return row !== undefined;
}

/** What could not be found out within this is not asked about any more: it stays unknown. Milliseconds. */
const longestUnknownMs = 7 * 86_400_000;

/** Batches whose end nobody has noted, sent before a moment; each in its turn, however many there are. */
export async function openBatches(before: Date, most: number): Promise<StoredBatch[]> {
  return database()
    .select()
    .from(changeBatches)
    .where(
      and(
        inArray(changeBatches.state, ['sending', 'unknown']),
        lt(changeBatches.at, before),
        gt(changeBatches.at, new Date(before.getTime() - longestUnknownMs)),
      ),
    )
    .orderBy(sql`random()`)
    .limit(most);
}

/** A change of one record as its history tells it. */
export interface PastChange {
  readonly batch: string;
  readonly at: Date;
  readonly by: string;
  readonly label: string;
  readonly way: Way;
  readonly isUndo: boolean;
  readonly before: Values | null;
  readonly after: Values | null;
}

const isUndo = sql<boolean>`${changeBatches.undoes} IS NOT NULL`;
const isDone = inArray(changeBatches.state, ['done', 'unknown']);
const wasMade = or(isNull(changedRecords.outcome), ne(changedRecords.outcome, 'refused'));

/** What was done to a record here, latest first. */
export async function historyOf(place: string, key: string, most: number): Promise<PastChange[]> {
  const rows = await database()
    .select({
      batch: changeBatches.id,
      at: changeBatches.at,
      by: changeBatches.userName,
      label: changeBatches.label,
      way: changeBatches.way,
      isUndo,
      before: changedRecords.before,
      after: changedRecords.after,
    })
    .from(changedRecords)
    .innerJoin(changeBatches, eq(changeBatches.id, changedRecords.batchId))
    .where(and(eq(changedRecords.place, place), eq(changedRecords.key, key), isDone, wasMade))
    .orderBy(desc(changeBatches.at))
    .limit(most);
  return rows as PastChange[];
}

/** A batch as the list of a desk has it. */
export interface ListedBatch {
  readonly id: string;
  readonly at: Date;
  readonly by: string;
  readonly label: string;
  readonly pane: string;
  readonly way: Way;
  readonly state: BatchState;
  readonly isUndo: boolean;
  readonly records: number;
  /** How many of them were not made. */
  readonly refused: number;
  /** The first of its records, by name. */
  readonly title: string | null;
}

/** The batches of a desk that a person, an action, a pane or a record of is called so; all where nothing is looked for. */
function ofDesk(deskId: string, find: string): SQL | undefined {
  const pattern = `%${find.replace(/[\\%_]/g, '\\$&')}%`;
  const isFound = sql`(${changeBatches.userName} ILIKE ${pattern} OR ${changeBatches.label} ILIKE ${pattern} OR ${changeBatches.pane} ILIKE ${pattern}
    OR EXISTS (SELECT 1 FROM ${changedRecords} WHERE ${changedRecords.batchId} = ${changeBatches.id} AND ${changedRecords.title} ILIKE ${pattern}))`;
  return and(eq(changeBatches.deskId, deskId), ...(find === '' ? [] : [isFound]));
}

/** What was changed from the dashboards of a desk, latest first. */
export async function changesOfDesk(
  deskId: string,
  { find, offset, limit }: { readonly find: string; readonly offset: number; readonly limit: number },
): Promise<ListedBatch[]> {
  const records = sql<number>`(SELECT count(*)::int FROM ${changedRecords} WHERE ${changedRecords.batchId} = ${changeBatches.id} AND ${changedRecords.place} = ${changeBatches.place})`;
  const refused = sql<number>`(SELECT count(*)::int FROM ${changedRecords} WHERE ${changedRecords.batchId} = ${changeBatches.id} AND outcome = 'refused')`;
  const title = sql<
    string | null
  >`(SELECT title FROM ${changedRecords} WHERE ${changedRecords.batchId} = ${changeBatches.id} AND position = 0)`;
  return database()
    .select({
      id: changeBatches.id,
      at: changeBatches.at,
      by: changeBatches.userName,
      label: changeBatches.label,
      pane: changeBatches.pane,
      way: changeBatches.way,
      state: changeBatches.state,
      isUndo,
      records,
      refused,
      title,
    })
    .from(changeBatches)
    .where(ofDesk(deskId, find))
    .orderBy(desc(changeBatches.at))
    .offset(offset)
    .limit(limit);
}

/** A record that was changed, as a file of them has it. */
export interface ListedChange extends ChangedOne {
  readonly at: Date;
  readonly by: string;
  readonly label: string;
  readonly pane: string;
  readonly state: BatchState;
}

const rowsAtATime = 2_000;

/** Every record that was changed from the dashboards of a desk, latest first, some at a time. */
export async function* changedOfDesk(deskId: string, find: string): AsyncGenerator<ListedChange[]> {
  for (let offset = 0; ; offset += rowsAtATime) {
    const rows = await database()
      .select({
        at: changeBatches.at,
        by: changeBatches.userName,
        label: changeBatches.label,
        pane: changeBatches.pane,
        state: changeBatches.state,
        key: changedRecords.key,
        title: changedRecords.title,
        before: changedRecords.before,
        after: changedRecords.after,
        outcome: changedRecords.outcome,
        why: changedRecords.why,
      })
      .from(changedRecords)
      .innerJoin(changeBatches, eq(changeBatches.id, changedRecords.batchId))
      .where(ofDesk(deskId, find))
      .orderBy(desc(changeBatches.at), changeBatches.id, changedRecords.position)
      .offset(offset)
      .limit(rowsAtATime);
    if (rows.length > 0) yield rows as ListedChange[];
    if (rows.length < rowsAtATime) return;
  }
}
