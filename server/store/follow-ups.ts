import { and, asc, desc, eq, ne, sql } from 'drizzle-orm';
import type { FollowUpState, FollowUpView, ListedFollowUp } from '#core/change/follow-up.ts';
import type { FollowUpPart } from '#core/change/follow-up-data.ts';
import { recordPlace } from '#core/change/place.ts';
import { ProblemError } from '#core/value/problem/problem.ts';
import type { FollowedUpRecords } from '#sources/follow-ups/read.ts';
import { findDataSet } from './data-sets.ts';
import { database } from './database.ts';
import { dashboards, followUpNotes, followUps, users } from './tables.ts';

/* What people must do about records, whatever the source of those, and all that was said of it. */

/** As many of its notes as a record tells, the latest. */
const mostNotes = 100;

export interface RecordPlace {
  readonly deskId: string;
  readonly place: string;
  readonly key: string;
}

const isOf = ({ deskId, place, key }: RecordPlace) =>
  and(eq(followUps.deskId, deskId), eq(followUps.place, place), eq(followUps.key, key));

/** How a record stands, with what was said of it, latest first; null where nobody has said anything. */
export async function followUpOf(of: RecordPlace): Promise<FollowUpView | null> {
  const [row] = await database().select().from(followUps).where(isOf(of)).limit(1);
  if (!row) return null;
  const notes = await database()
    .select()
    .from(followUpNotes)
    .where(eq(followUpNotes.followUpId, row.id))
    .orderBy(desc(followUpNotes.id))
    .limit(mostNotes);
  return {
    state: row.state,
    due: row.due,
    givenTo: row.givenTo,
    notes: notes.map(({ id, at, userName, note, state, due, givenTo }) => ({
      id,
      at: at.toISOString(),
      by: userName,
      note,
      state,
      due,
      givenTo,
    })),
  };
}

export interface NewNote extends RecordPlace {
  readonly dataSetId: string;
  readonly dashboardId: string;
  readonly pane: string;
  readonly title: string;
  readonly noun: string;
  readonly by: { readonly id: string; readonly name: string };
  readonly note: string;
  readonly state: FollowUpState;
  readonly due: string | null;
  readonly givenTo: { readonly id: string; readonly name: string } | null;
}

/** Notes what somebody says of a record, and how it stands since. */
export async function addFollowUp(added: NewNote): Promise<void> {
  const { by, note, givenTo, deskId, place, key, dataSetId, dashboardId, pane, title, noun, state, due } =
    added;
  await database().transaction(async (within) => {
    const now = {
      state,
      due,
      givenTo: givenTo?.id ?? null,
      touchedAt: new Date(),
      touchedBy: by.name,
      title,
    };
    const [row] = await within
      .insert(followUps)
      .values({ deskId, place, key, dataSetId, dashboardId, pane, noun, ...now })
      .onConflictDoUpdate({ target: [followUps.deskId, followUps.place, followUps.key], set: now })
      .returning({ id: followUps.id });
    if (!row) throw new Error('the follow-up was not stored');
    await within.insert(followUpNotes).values({
      followUpId: row.id,
      userId: by.id,
      userName: by.name,
      note,
      state,
      due,
      givenTo: givenTo?.name ?? null,
    });
  });
}

/** What people noted of the records of a data set, a record for each: where several desks did, as the one says that did last. */
export const followedUp: FollowedUpRecords = async (dataSet, most) => {
  const found = await findDataSet(dataSet);
  if (!found)
    throw new ProblemError({
      code: 'missing',
      doing: 'reading the follow-ups',
      why: 'the data set whose records they are of has been removed',
      mend: 'Choose another, or remove this one too.',
    });
  const { rows } = await database().execute<Record<FollowUpPart, string | null>>(sql`
    SELECT DISTINCT ON (f.key) f.key AS record, f.state, f.due::text, u.name AS given_to, f.touched_by,
      to_char(f.touched_at AT TIME ZONE 'UTC', 'YYYY-MM-DD"T"HH24:MI:SS.US"Z"') AS touched_at,
      (SELECT count(*)::text FROM follow_up_notes n WHERE n.follow_up_id = f.id) AS notes
    FROM follow_ups f LEFT JOIN users u ON u.id = f.given_to
    WHERE f.place = ${recordPlace(dataSet, found.definition)}
    ORDER BY f.key, f.touched_at DESC, f.id LIMIT ${most}`);
  return rows;
};

/** Who can be given something on a desk: whoever may change things there. */
export async function deskActors(deskId: string): Promise<{ id: string; name: string }[]> {
  return database()
    .select({ id: users.id, name: users.name })
    .from(users)
    .where(
      sql`users.id IN (
        SELECT r.user_id FROM desk_roles r WHERE r.desk_id = ${deskId}::uuid AND r.role <> 'reader'
        UNION
        SELECT m.user_id FROM group_roles r JOIN group_members m USING (group_id)
          WHERE r.desk_id = ${deskId}::uuid AND r.role <> 'reader')`,
    )
    .orderBy(users.name);
}

const mostListed = 200;

/** What is to be done on a desk, or was settled: who has waited longest untouched first, what was settled last first. */
export async function listFollowUps(
  deskId: string,
  { isSettled, person }: { readonly isSettled: boolean; readonly person: string | null },
): Promise<(ListedFollowUp & { readonly dataSetId: string })[]> {
  const rows = await database()
    .select({
      id: followUps.id,
      key: followUps.key,
      dataSetId: followUps.dataSetId,
      title: followUps.title,
      noun: followUps.noun,
      state: followUps.state,
      due: followUps.due,
      givenTo: users.name,
      touchedAt: followUps.touchedAt,
      touchedBy: followUps.touchedBy,
      dashboardId: followUps.dashboardId,
      pane: followUps.pane,
      slug: dashboards.slug,
    })
    .from(followUps)
    .innerJoin(dashboards, eq(dashboards.id, followUps.dashboardId))
    .leftJoin(users, eq(users.id, followUps.givenTo))
    .where(
      and(
        eq(followUps.deskId, deskId),
        isSettled ? eq(followUps.state, 'settled') : ne(followUps.state, 'settled'),
        ...(person === null ? [] : [eq(followUps.givenTo, person)]),
      ),
    )
    .orderBy(isSettled ? desc(followUps.touchedAt) : asc(followUps.touchedAt), asc(followUps.id))
    .limit(mostListed);
  return rows.map(({ touchedAt, ...row }) => ({ ...row, touchedAt: touchedAt.toISOString() }));
}

/** How much somebody has been given on a desk that is not settled. */
export async function countGiven(deskId: string, person: string): Promise<number> {
  const [row] = await database()
    .select({ count: sql<number>`count(*)::int` })
    .from(followUps)
    .where(and(eq(followUps.deskId, deskId), eq(followUps.givenTo, person), ne(followUps.state, 'settled')));
  return row?.count ?? 0;
}
