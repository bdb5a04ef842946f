import { sql } from 'drizzle-orm';
import { bigint, bigserial, date, index, pgTable, primaryKey, text, unique, uuid } from 'drizzle-orm/pg-core';
import { bytes, creation, moment } from './columns.ts';
import { dashboards } from './dashboards.ts';
import { desks } from './desks.ts';
import { users } from './people.ts';

/* What somebody must do about a record, whatever its source. */

/** What somebody must do about a record, whatever its source: how it stands now. */
export const followUps = pgTable(
  'follow_ups',
  {
    id: uuid('id').primaryKey().defaultRandom(),
    deskId: uuid('desk_id')
      .notNull()
      .references(() => desks.id, { onDelete: 'cascade' }),
    /** Which records it is one of: those of a table, or of a meaning, whichever data set shows them. */
    place: text('place').notNull(),
    key: text('key').notNull(),
    dataSetId: uuid('data_set_id').notNull(),
    /** Where it can be looked at: the dashboard and the pane that it was first followed up from. */
    dashboardId: uuid('dashboard_id')
      .notNull()
      .references(() => dashboards.id, { onDelete: 'cascade' }),
    pane: text('pane').notNull(),
    /** What people call the record, and what it is. */
    title: text('title').notNull(),
    noun: text('noun').notNull(),
    state: text('state', { enum: ['open', 'waiting', 'settled'] }).notNull(),
    due: date('due'),
    givenTo: uuid('given_to').references(() => users.id, { onDelete: 'set null' }),
    madeAt: creation(),
    touchedAt: moment('touched_at').notNull().default(sql`now()`),
    touchedBy: text('touched_by').notNull(),
  },
  (table) => [
    unique('follow_ups_of_record').on(table.deskId, table.place, table.key),
    index('follow_ups_by_desk').on(table.deskId, table.state, table.touchedAt),
    index('follow_ups_by_person').on(table.givenTo, table.state),
  ],
);

/** What was said and settled of a record, each time. Only ever added to. */
export const followUpNotes = pgTable(
  'follow_up_notes',
  {
    id: bigserial('id', { mode: 'number' }).primaryKey(),
    followUpId: uuid('follow_up_id')
      .notNull()
      .references(() => followUps.id, { onDelete: 'cascade' }),
    at: moment('at').notNull().default(sql`now()`),
    userId: uuid('user_id').references(() => users.id, { onDelete: 'set null' }),
    userName: text('user_name').notNull(),
    note: text('note').notNull(),
    state: text('state', { enum: ['open', 'waiting', 'settled'] }).notNull(),
    due: date('due'),
    givenTo: text('given_to'),
  },
  (table) => [index('follow_up_notes_of').on(table.followUpId, table.id)],
);

/** Who was told of a note, beside whoever the record was given to. */
export const followUpTellings = pgTable(
  'follow_up_tellings',
  {
    noteId: bigint('note_id', { mode: 'number' })
      .notNull()
      .references(() => followUpNotes.id, { onDelete: 'cascade' }),
    userId: uuid('user_id')
      .notNull()
      .references(() => users.id, { onDelete: 'cascade' }),
    /** When they had it before them; null until then. */
    seenAt: moment('seen_at'),
  },
  (table) => [
    primaryKey({ columns: [table.noteId, table.userId] }),
    index('follow_up_tellings_by_person').on(table.userId, table.seenAt),
  ],
);

/** Files that were noted with a note. */
export const followUpFiles = pgTable(
  'follow_up_files',
  {
    id: uuid('id').primaryKey().defaultRandom(),
    noteId: bigint('note_id', { mode: 'number' })
      .notNull()
      .references(() => followUpNotes.id, { onDelete: 'cascade' }),
    name: text('name').notNull(),
    bytes: bytes('bytes').notNull(),
  },
  (table) => [index('follow_up_files_of').on(table.noteId)],
);
