import { sql } from 'drizzle-orm';
import {
  bigserial,
  date,
  index,
  integer,
  jsonb,
  pgTable,
  primaryKey,
  text,
  unique,
  uuid,
} from 'drizzle-orm/pg-core';
import { bytes, creation, moment } from './columns.ts';
import { users } from './people.ts';

/* Where records come from, and what is known of the services behind them. */

/** `secret` is AES-256-GCM with a key that is not in this database. */
export const sources = pgTable('sources', {
  id: uuid('id').primaryKey(),
  name: text('name').notNull(),
  connection: jsonb('connection').notNull(),
  secret: bytes('secret').notNull(),
  /** Who changes records there, with a secret of its own; null where nobody may. */
  changer: text('changer'),
  changerSecret: bytes('changer_secret'),
  /** When a record of it was last changed from here. */
  changedAt: moment('changed_at'),
  report: jsonb('proof').notNull(),
  madeAt: creation(),
  madeBy: uuid('made_by').references(() => users.id, { onDelete: 'set null' }),
});

/** Calls of a service in a day (UTC), counted over all processes, and what the service said of its own limits. */
export const allowances = pgTable(
  'allowances',
  {
    sourceId: uuid('source_id')
      .notNull()
      .references(() => sources.id, { onDelete: 'cascade' }),
    day: date('day').notNull(),
    spent: integer('spent').notNull().default(0),
    /** Calls left as the service last told them. */
    told: integer('told'),
    /** No call is made before this. */
    pausedUntil: moment('paused_until'),
  },
  (table) => [primaryKey({ columns: [table.sourceId, table.day] })],
);

/** Sources that were found not to answer, until they answer again. */
export const outages = pgTable('outages', {
  sourceId: uuid('source_id')
    .primaryKey()
    .references(() => sources.id, { onDelete: 'cascade' }),
  since: moment('since').notNull().default(sql`now()`),
});

/** Records that were fetched because somebody asked for them, for as long as they are fresh. */
export const fetched = pgTable(
  'fetched',
  {
    /** A digest of the source, the request, its inputs and its fields. */
    key: text('key').primaryKey(),
    sourceId: uuid('source_id')
      .notNull()
      .references(() => sources.id, { onDelete: 'cascade' }),
    trueAt: moment('true_at').notNull(),
    fields: jsonb('fields').notNull(),
    spans: jsonb('spans').notNull(),
    segments: jsonb('segments').notNull(),
    /** The calls that it took. */
    calls: integer('calls').notNull().default(0),
  },
  (table) => [index('fetched_by_time').on(table.trueAt)],
);

/** Batches of records that were sent to us, as lines of JSON. */
export const intake = pgTable(
  'intake',
  {
    id: bigserial('id', { mode: 'bigint' }).primaryKey(),
    sourceId: uuid('source_id')
      .notNull()
      .references(() => sources.id, { onDelete: 'cascade' }),
    /** Of the batch, so that one that is sent again is known. */
    digest: text('digest').notNull(),
    lines: text('lines').notNull(),
    records: integer('records').notNull(),
    at: moment('at').notNull().default(sql`now()`),
  },
  (table) => [unique('intake_digest').on(table.sourceId, table.digest), index('intake_by_time').on(table.at)],
);
