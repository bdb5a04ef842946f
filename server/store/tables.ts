import { sql } from 'drizzle-orm';
import {
  customType,
  index,
  integer,
  jsonb,
  pgTable,
  text,
  timestamp,
  unique,
  uuid,
} from 'drizzle-orm/pg-core';

const bytes = customType<{ data: Buffer }>({ dataType: () => 'bytea' });
const moment = (name: string) => timestamp(name, { withTimezone: true, mode: 'date' });
const made = () => moment('made_at').notNull().default(sql`now()`);

export const users = pgTable('users', {
  id: uuid('id').primaryKey().defaultRandom(),
  email: text('email').notNull().unique(),
  name: text('name').notNull(),
  passwordHash: text('password_hash').notNull(),
  role: text('role', { enum: ['administrator', 'analyst', 'supervisor', 'reader'] }).notNull(),
  madeAt: made(),
});

/** The key is the hash of the token in the cookie, so that reading this table signs nobody in. */
export const sessions = pgTable(
  'sessions',
  {
    tokenHash: text('token_hash').primaryKey(),
    userId: uuid('user_id')
      .notNull()
      .references(() => users.id, { onDelete: 'cascade' }),
    madeAt: made(),
    expiresAt: moment('expires_at').notNull(),
  },
  (table) => [index('sessions_by_expiry').on(table.expiresAt)],
);

export const desks = pgTable('desks', {
  id: uuid('id').primaryKey().defaultRandom(),
  slug: text('slug').notNull().unique(),
  name: text('name').notNull(),
  /** IANA name: days, weeks and months are those of this zone. */
  zone: text('zone').notNull(),
  madeAt: made(),
});

/** `secret` is AES-256-GCM with a key that is not in this database. */
export const sources = pgTable('sources', {
  id: uuid('id').primaryKey(),
  name: text('name').notNull(),
  connection: jsonb('connection').notNull(),
  secret: bytes('secret').notNull(),
  proof: jsonb('proof').notNull(),
  madeAt: made(),
  madeBy: uuid('made_by').references(() => users.id, { onDelete: 'set null' }),
});

export const dataSets = pgTable(
  'data_sets',
  {
    id: uuid('id').primaryKey(),
    name: text('name').notNull(),
    sourceId: uuid('source_id')
      .notNull()
      .references(() => sources.id),
    definition: jsonb('definition').notNull(),
    /** Goes up by one with each save; a save names the one it started from. */
    revision: integer('revision').notNull().default(1),
    madeAt: made(),
    savedAt: moment('saved_at').notNull().default(sql`now()`),
    savedBy: uuid('saved_by').references(() => users.id, { onDelete: 'set null' }),
  },
  (table) => [index('data_sets_by_source').on(table.sourceId)],
);

export const dashboards = pgTable(
  'dashboards',
  {
    id: uuid('id').primaryKey(),
    deskId: uuid('desk_id')
      .notNull()
      .references(() => desks.id),
    slug: text('slug').notNull(),
    /** In the desk's menu; the first is its home. */
    position: integer('position').notNull(),
    draft: jsonb('draft').notNull(),
    revision: integer('revision').notNull().default(1),
    savedAt: moment('saved_at').notNull().default(sql`now()`),
    savedBy: uuid('saved_by').references(() => users.id, { onDelete: 'set null' }),
    /** The number of the version that readers get; null while there is none. */
    published: integer('published'),
    madeAt: made(),
  },
  (table) => [unique('dashboards_slug').on(table.deskId, table.slug)],
);

/** A published dashboard with the definitions of its data sets as they were, so that drafts change nothing for readers. */
export const versions = pgTable(
  'versions',
  {
    id: uuid('id').primaryKey().defaultRandom(),
    dashboardId: uuid('dashboard_id')
      .notNull()
      .references(() => dashboards.id, { onDelete: 'cascade' }),
    number: integer('number').notNull(),
    definition: jsonb('definition').notNull(),
    dataSets: jsonb('data_sets').notNull(),
    madeAt: made(),
    madeBy: uuid('made_by').references(() => users.id, { onDelete: 'set null' }),
  },
  (table) => [unique('versions_number').on(table.dashboardId, table.number)],
);

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
