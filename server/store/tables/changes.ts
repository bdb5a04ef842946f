import { sql } from 'drizzle-orm';
import { index, integer, jsonb, pgTable, primaryKey, text, uniqueIndex, uuid } from 'drizzle-orm/pg-core';
import { moment } from './columns.ts';
import { desks } from './desks.ts';
import { users } from './people.ts';

/* Who did what, and what became of records that were changed. */

export const audit = pgTable(
  'audit',
  {
    id: uuid('id').primaryKey().defaultRandom(),
    at: moment('at').notNull().default(sql`now()`),
    userId: uuid('user_id').references(() => users.id, { onDelete: 'set null' }),
    act: text('act').notNull(),
    subject: text('subject').notNull(),
  },
  (table) => [index('audit_by_time').on(table.at)],
);

/**
 * Changes of records that were sent together: noted before they are sent, and again once it is known what became of them. Its id
 * comes with the page, so that what is sent twice is done once.
 */
export const changeBatches = pgTable(
  'change_batches',
  {
    id: uuid('id').primaryKey(),
    /** Where the records are: a source and a table of it. */
    place: text('place').notNull(),
    sourceId: uuid('source_id').notNull(),
    dataSetId: uuid('data_set_id').notNull(),
    deskId: uuid('desk_id').references(() => desks.id, { onDelete: 'set null' }),
    dashboardId: uuid('dashboard_id'),
    /** The title of the pane that it was done in, and what was done, as readers have them. */
    pane: text('pane').notNull(),
    label: text('label').notNull(),
    way: text('way', { enum: ['update', 'insert', 'remove'] }).notNull(),
    state: text('state', { enum: ['sending', 'done', 'refused', 'unknown'] }).notNull(),
    /** By what the source knows them. */
    mark: text('mark'),
    /** The data set of the records that came or went with the one that was changed. */
    linesDataSetId: uuid('lines_data_set_id'),
    /** The batch that this one takes back. */
    undoes: uuid('undoes'),
    userId: uuid('user_id').references(() => users.id, { onDelete: 'set null' }),
    /** Stays when the person goes. */
    userName: text('user_name').notNull(),
    at: moment('at').notNull().default(sql`now()`),
    endedAt: moment('ended_at'),
  },
  (table) => [
    index('change_batches_by_desk').on(table.deskId, table.at),
    index('change_batches_open').on(table.state).where(sql`state IN ('sending', 'unknown')`),
    uniqueIndex('change_batches_undone')
      .on(table.undoes)
      .where(sql`undoes IS NOT NULL AND state <> 'refused'`),
  ],
);

/** What became of each record: its values before and after by the names of the data set's fields. Only ever added to. */
export const changedRecords = pgTable(
  'changed_records',
  {
    batchId: uuid('batch_id')
      .notNull()
      .references(() => changeBatches.id, { onDelete: 'cascade' }),
    position: integer('position').notNull(),
    place: text('place').notNull(),
    key: text('key').notNull(),
    /** What people call the record. */
    title: text('title').notNull(),
    before: jsonb('before'),
    after: jsonb('after'),
    /** Where it was sent by itself and was not made, or is not known to be: that, and why. */
    outcome: text('outcome', { enum: ['refused', 'unknown'] }),
    why: text('why'),
  },
  (table) => [
    primaryKey({ columns: [table.batchId, table.position] }),
    index('changed_records_by_key').on(table.place, table.key),
  ],
);
