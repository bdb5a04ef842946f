import { sql } from 'drizzle-orm';
import {
  bigint,
  bigserial,
  boolean,
  index,
  integer,
  jsonb,
  pgTable,
  primaryKey,
  text,
  uuid,
} from 'drizzle-orm/pg-core';
import type { Condition } from '#core/ask/condition/schema.ts';
import { bytes, creation, moment } from './columns.ts';
import { users } from './people.ts';
import { sources } from './sources.ts';

/* Data sets with their kept records, and what their checks came to. */

export const dataSets = pgTable(
  'data_sets',
  {
    id: uuid('id').primaryKey(),
    name: text('name').notNull(),
    sourceId: uuid('source_id')
      .notNull()
      .references(() => sources.id),
    definition: jsonb('definition').notNull(),
    /** As the definition has it: who sees which records holds at once, for what was published before too. */
    rowRule: jsonb('row_rule').$type<Condition>(),
    /** Goes up by one with each save; a save names the one it started from. */
    revision: integer('revision').notNull().default(1),
    madeAt: creation(),
    savedAt: moment('saved_at').notNull().default(sql`now()`),
    savedBy: uuid('saved_by').references(() => users.id, { onDelete: 'set null' }),
  },
  (table) => [
    index('data_sets_by_source').on(table.sourceId),
    index('data_sets_with_rule').on(table.id).where(sql`row_rule IS NOT NULL`),
  ],
);

/** Kept records as immutable Parquet files, named after their content (SHA-256), so that versions share them. */
export const segments = pgTable('segments', {
  hash: text('hash').primaryKey(),
  content: bytes('content').notNull(),
  size: bigint('size', { mode: 'number' }).notNull(),
  records: bigint('records', { mode: 'number' }).notNull(),
  madeAt: creation(),
});

/** One state of a data set's kept records: a list of segments that never changes. */
export const keptVersions = pgTable(
  'kept_versions',
  {
    id: uuid('id').primaryKey(),
    dataSetId: uuid('data_set_id')
      .notNull()
      .references(() => dataSets.id, { onDelete: 'cascade' }),
    /** When its records were read at their source. */
    trueAt: moment('true_at').notNull(),
    records: bigint('records', { mode: 'number' }).notNull(),
    fields: jsonb('fields').notNull(),
    spans: jsonb('spans').notNull(),
    /** Where the fetch that made it ended, as the kind of source says; it goes with the records. */
    position: jsonb('position'),
    madeAt: creation(),
  },
  (table) => [index('kept_versions_by_data_set').on(table.dataSetId)],
);

export const versionSegments = pgTable(
  'version_segments',
  {
    versionId: uuid('version_id')
      .notNull()
      .references(() => keptVersions.id, { onDelete: 'cascade' }),
    position: integer('position').notNull(),
    hash: text('hash')
      .notNull()
      .references(() => segments.hash),
  },
  (table) => [
    primaryKey({ columns: [table.versionId, table.position] }),
    index('version_segments_by_hash').on(table.hash),
  ],
);

/** Which version readers get, and when the next refresh is due. */
export const kept = pgTable('kept', {
  dataSetId: uuid('data_set_id')
    .primaryKey()
    .references(() => dataSets.id, { onDelete: 'cascade' }),
  versionId: uuid('version_id').references(() => keptVersions.id),
  nextAt: moment('next_at'),
  /** When a refresh was last asked for; one that began before may lack what it was asked for. */
  askedAt: moment('asked_at'),
  /** Refreshes that failed one after the other; each makes the next wait longer. */
  failures: integer('failures').notNull().default(0),
  /** When records that it may show were last changed where they come from. */
  changedAt: moment('changed_at'),
});

/** The history of refreshes. */
export const refreshes = pgTable(
  'refreshes',
  {
    id: uuid('id').primaryKey(),
    dataSetId: uuid('data_set_id')
      .notNull()
      .references(() => dataSets.id, { onDelete: 'cascade' }),
    state: text('state', { enum: ['running', 'done', 'failed', 'stopped'] }).notNull(),
    startedAt: moment('started_at').notNull().default(sql`now()`),
    endedAt: moment('ended_at'),
    /** Records fetched so far, and records kept in the end. */
    fetched: bigint('fetched', { mode: 'number' }).notNull().default(0),
    kept: bigint('kept', { mode: 'number' }),
    /** Records that could not be read, and calls of a service that were spent. */
    rejected: bigint('rejected', { mode: 'number' }).notNull().default(0),
    calls: integer('calls').notNull().default(0),
    problem: jsonb('problem'),
    stopAsked: boolean('stop_asked').notNull().default(false),
  },
  (table) => [index('refreshes_by_data_set').on(table.dataSetId, table.startedAt)],
);

/** Lines that could not be read, to look at. The oldest of a data set go when there are many. */
export const rejects = pgTable(
  'rejects',
  {
    id: bigserial('id', { mode: 'bigint' }).primaryKey(),
    dataSetId: uuid('data_set_id')
      .notNull()
      .references(() => dataSets.id, { onDelete: 'cascade' }),
    line: bigint('line', { mode: 'number' }).notNull(),
    text: text('text').notNull(),
    why: text('why').notNull(),
    madeAt: creation(),
  },
  (table) => [index('rejects_by_data_set').on(table.dataSetId, table.id)],
);

/** What each check of a data set came to the last time it was tried. */
export const checkResults = pgTable(
  'check_results',
  {
    dataSetId: uuid('data_set_id')
      .notNull()
      .references(() => dataSets.id, { onDelete: 'cascade' }),
    name: text('name').notNull(),
    at: moment('at').notNull(),
    state: text('state', { enum: ['met', 'broken', 'untried'] }).notNull(),
    /** Exact counts, as text. */
    failing: text('failing').notNull(),
    of: text('of').notNull(),
    found: text('found').notNull(),
  },
  (table) => [primaryKey({ columns: [table.dataSetId, table.name] })],
);
