import { and, asc, desc, eq, inArray, isNull, ne, or, type SQL, sql } from 'drizzle-orm';
import type { NodePgDatabase } from 'drizzle-orm/node-postgres';
import type {
  FollowUpFile,
  FollowUpList,
  FollowUpState,
  FollowUpView,
  ListedFollowUp,
} from '#core/change/follow-up.ts';
import type { FollowUpPart } from '#core/change/follow-up-data.ts';
import { ProblemError } from '#core/value/problem/problem.ts';
import type { FollowedUpRecords } from '#sources/follow-ups/read.ts';
import { findDataSet } from './data-sets.ts';
import { database } from './database.ts';
import { placeOfRecords } from './record-place.ts';
import { dashboards } from './tables/dashboards.ts';
import { followUpFiles, followUpNotes, followUps, followUpTellings } from './tables/follow-ups.ts';
import { users } from './tables/people.ts';

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

/** Somebody was told of a note about it that they have not had before them yet. */
const isNewsTo = (person: string): SQL<boolean> =>
  sql<boolean>`EXISTS (SELECT 1 FROM ${followUpTellings} t JOIN ${followUpNotes} n ON n.id = t.note_id
    WHERE n.follow_up_id = follow_ups.id AND t.user_id = ${person}::uuid AND t.seen_at IS NULL)`;

/** How a record stands for somebody who looks, with what was said of it, latest first; null where nobody has said anything. */
export async function followUpOf(of: RecordPlace, person: string): Promise<FollowUpView | null> {
  const [row] = await database()
    .select({
      id: followUps.id,
      state: followUps.state,
      due: followUps.due,
      givenTo: followUps.givenTo,
      isNews: isNewsTo(person),
    })
    .from(followUps)
    .where(isOf(of))
    .limit(1);
  if (!row) return null;
  const notes = await database()
    .select({
      id: followUpNotes.id,
      at: followUpNotes.at,
      by: followUpNotes.userName,
      note: followUpNotes.note,
      state: followUpNotes.state,
      due: followUpNotes.due,
      givenTo: followUpNotes.givenTo,
      recipients: sql<
        string[]
      >`ARRAY(SELECT u.name FROM ${followUpTellings} t JOIN ${users} u ON u.id = t.user_id
        WHERE t.note_id = follow_up_notes.id ORDER BY u.name)`,
      files: sql<
        FollowUpFile[]
      >`(SELECT coalesce(json_agg(json_build_object('id', f.id, 'name', f.name, 'bytes', length(f.bytes)) ORDER BY f.name, f.id), '[]')
        FROM ${followUpFiles} f WHERE f.note_id = follow_up_notes.id)`,
    })
    .from(followUpNotes)
    .where(eq(followUpNotes.followUpId, row.id))
    .orderBy(desc(followUpNotes.id))
    .limit(mostNotes);
  return {
    state: row.state,
    due: row.due,
    givenTo: row.givenTo,
    isNews: row.isNews,
    notes: notes.map(({ at, ...note }) => ({ ...note, at: at.toISOString() })),
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
  /** The ids of those who are told of it. */
  readonly tells?: readonly string[];
  readonly files?: readonly { readonly name: string; readonly bytes: Buffer }[];
}

/** Tells the open pages of people that what they have to follow up is otherwise, once the transaction has ended well. */
async function tellPeople(
  people: readonly (string | null)[],
  within: Pick<NodePgDatabase, 'execute'> = database(),
): Promise<void> {
  for (const id of new Set(people))
    if (id !== null) await within.execute(sql`SELECT pg_notify('slate_given', ${id})`);
}

/** Notes what somebody says of a record, and how it stands since. */
export async function addFollowUp(added: NewNote): Promise<void> {
  const { by, note, givenTo, deskId, place, key, dataSetId, dashboardId, pane, title, noun, state, due } =
    added;
  const { files = [] } = added;
  const tells = [...new Set(added.tells)];
  await database().transaction(async (within) => {
    const now = {
      state,
      due,
      givenTo: givenTo?.id ?? null,
      touchedAt: new Date(),
      touchedBy: by.name,
      title,
    };
    const [before] = await within
      .select({ givenTo: followUps.givenTo })
      .from(followUps)
      .where(isOf({ deskId, place, key }))
      .limit(1);
    const [row] = await within
      .insert(followUps)
      .values({ deskId, place, key, dataSetId, dashboardId, pane, noun, ...now })
      .onConflictDoUpdate({ target: [followUps.deskId, followUps.place, followUps.key], set: now })
      .returning({ id: followUps.id });
    if (!row) throw new Error('the follow-up was not stored');
    const [noted] = await within
      .insert(followUpNotes)
      .values({
        followUpId: row.id,
        userId: by.id,
        userName: by.name,
        note,
        state,
        due,
        givenTo: givenTo?.name ?? null,
      })
      .returning({ id: followUpNotes.id });
    if (!noted) throw new Error('the note was not stored');
    if (tells.length > 0)
      await within.insert(followUpTellings).values(tells.map((userId) => ({ noteId: noted.id, userId })));
    if (files.length > 0)
      await within.insert(followUpFiles).values(files.map((file) => ({ ...file, noteId: noted.id })));
    await tellPeople([before?.givenTo ?? null, now.givenTo, ...tells], within);
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
    WHERE f.place = ${await placeOfRecords(dataSet, found.definition)}
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

/** A file that was noted of a record; null where it has none of this id. */
export async function fileOf(
  of: RecordPlace,
  id: string,
): Promise<{ readonly name: string; readonly bytes: Buffer } | null> {
  const [file] = await database()
    .select({ name: followUpFiles.name, bytes: followUpFiles.bytes })
    .from(followUpFiles)
    .innerJoin(followUpNotes, eq(followUpNotes.id, followUpFiles.noteId))
    .innerJoin(followUps, eq(followUps.id, followUpNotes.followUpId))
    .where(and(isOf(of), eq(followUpFiles.id, id)))
    .limit(1);
  return file ?? null;
}

/** Notes that somebody has all that was said of a record before them. */
export async function noteSeen(of: RecordPlace, person: string): Promise<void> {
  const notes = database()
    .select({ id: followUpNotes.id })
    .from(followUpNotes)
    .innerJoin(followUps, eq(followUps.id, followUpNotes.followUpId))
    .where(isOf(of));
  const seen = await database()
    .update(followUpTellings)
    .set({ seenAt: new Date() })
    .where(
      and(
        eq(followUpTellings.userId, person),
        isNull(followUpTellings.seenAt),
        inArray(followUpTellings.noteId, notes),
      ),
    )
    .returning({ id: followUpTellings.noteId });
  if (seen.length > 0) await tellPeople([person]);
}

/** What somebody has to look at: what they were given and is not settled, and what they were told of and have not seen. */
const isFor = (person: string): SQL | undefined =>
  or(and(eq(followUps.givenTo, person), ne(followUps.state, 'settled')), isNewsTo(person));

const mostListed = 200;

/** Follow-ups of a desk as somebody has them: who has waited longest untouched first, what was settled last first. */
export async function listFollowUps(
  deskId: string,
  list: FollowUpList,
  person: string,
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
      isNews: isNewsTo(person),
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
        list === 'mine'
          ? isFor(person)
          : list === 'settled'
            ? eq(followUps.state, 'settled')
            : ne(followUps.state, 'settled'),
      ),
    )
    .orderBy(list === 'settled' ? desc(followUps.touchedAt) : asc(followUps.touchedAt), asc(followUps.id))
    .limit(mostListed);
  return rows.map(({ touchedAt, ...row }) => ({ ...row, touchedAt: touchedAt.toISOString() }));
}

/** How many follow-ups of a desk somebody has to look at. */
export async function countFor(deskId: string, person: string): Promise<number> {
  const [row] = await database()
    .select({ count: sql<number>`count(*)::int` })
    .from(followUps)
    .where(and(eq(followUps.deskId, deskId), isFor(person)));
  return row?.count ?? 0;
}
