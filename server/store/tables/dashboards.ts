import { sql } from 'drizzle-orm';
import {
  index,
  integer,
  jsonb,
  pgTable,
  primaryKey,
  text,
  unique,
  uniqueIndex,
  uuid,
} from 'drizzle-orm/pg-core';
import { creation, moment } from './columns.ts';
import { desks } from './desks.ts';
import { users } from './people.ts';

/* Dashboards: what is drafted, published, sent and shown to others. */

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
    /** The words in the menu that it stands under with others; empty: it stands by itself. */
    menuGroup: text('menu_group').notNull().default(''),
    draft: jsonb('draft').notNull(),
    revision: integer('revision').notNull().default(1),
    savedAt: moment('saved_at').notNull().default(sql`now()`),
    savedBy: uuid('saved_by').references(() => users.id, { onDelete: 'set null' }),
    /** The number of the version that readers get; null while there is none. */
    published: integer('published'),
    madeAt: creation(),
  },
  (table) => [unique('dashboards_slug').on(table.deskId, table.slug)],
);

/** Scopes of a dashboard that have a name: somebody's own, or offered to all where they are nobody's. */
export const savedScopes = pgTable(
  'saved_scopes',
  {
    id: uuid('id').primaryKey().defaultRandom(),
    dashboardId: uuid('dashboard_id')
      .notNull()
      .references(() => dashboards.id, { onDelete: 'cascade' }),
    ownerId: uuid('owner_id').references(() => users.id, { onDelete: 'cascade' }),
    name: text('name').notNull(),
    /** As the address has it, from the question mark on. */
    search: text('search').notNull(),
    madeAt: creation(),
  },
  (table) => [
    uniqueIndex('saved_scopes_of_owner')
      .on(table.dashboardId, table.ownerId, table.name)
      .where(sql`owner_id IS NOT NULL`),
    uniqueIndex('saved_scopes_for_all').on(table.dashboardId, table.name).where(sql`owner_id IS NULL`),
  ],
);

/** The saved scope that a dashboard opens with for somebody. */
export const openingScopes = pgTable(
  'opening_scopes',
  {
    userId: uuid('user_id')
      .notNull()
      .references(() => users.id, { onDelete: 'cascade' }),
    dashboardId: uuid('dashboard_id')
      .notNull()
      .references(() => dashboards.id, { onDelete: 'cascade' }),
    scopeId: uuid('scope_id')
      .notNull()
      .references(() => savedScopes.id, { onDelete: 'cascade' }),
  },
  (table) => [primaryKey({ columns: [table.userId, table.dashboardId] })],
);

/** Dashboards that are sent to people by mail, by the clock. */
export const sendings = pgTable(
  'sendings',
  {
    id: uuid('id').primaryKey().defaultRandom(),
    dashboardId: uuid('dashboard_id')
      .notNull()
      .references(() => dashboards.id, { onDelete: 'cascade' }),
    /** Who set it up; it ends with them. */
    ownerId: uuid('owner_id')
      .notNull()
      .references(() => users.id, { onDelete: 'cascade' }),
    name: text('name').notNull(),
    /** The scope, as the address has it, from the question mark on. */
    search: text('search').notNull(),
    /** The ids of those who get it. */
    recipients: jsonb('recipients').$type<readonly string[]>().notNull(),
    /** Cron's five fields, by the clock of the desk. */
    cron: text('cron').notNull(),
    nextAt: moment('next_at'),
    /** Tries of this time that failed, and who has got it of it nevertheless. */
    failures: integer('failures').notNull().default(0),
    sentTo: jsonb('sent_to').$type<readonly string[]>().notNull().default([]),
    lastAt: moment('last_at'),
    problem: text('problem'),
    madeAt: creation(),
  },
  (table) => [index('sendings_due').on(table.nextAt), index('sendings_by_dashboard').on(table.dashboardId)],
);

/** Who has the draft of a dashboard on a page, as the page has said last. */
export const presences = pgTable(
  'presences',
  {
    dashboardId: uuid('dashboard_id')
      .notNull()
      .references(() => dashboards.id, { onDelete: 'cascade' }),
    userId: uuid('user_id')
      .notNull()
      .references(() => users.id, { onDelete: 'cascade' }),
    seenAt: moment('seen_at').notNull(),
  },
  (table) => [primaryKey({ columns: [table.dashboardId, table.userId] })],
);

/** Links by which a dashboard is shown to whoever has one, without signing in. Only hashes of them are kept. */
export const publicLinks = pgTable(
  'public_links',
  {
    id: uuid('id').primaryKey().defaultRandom(),
    tokenHash: text('token_hash').notNull().unique(),
    dashboardId: uuid('dashboard_id')
      .notNull()
      .references(() => dashboards.id, { onDelete: 'cascade' }),
    /** It ends with them. */
    madeBy: uuid('made_by')
      .notNull()
      .references(() => users.id, { onDelete: 'cascade' }),
    /** For whom it is. */
    name: text('name').notNull(),
    /** The scope, as the address has it, from the question mark on. */
    search: text('search').notNull(),
    /** The id of the one pane that it shows; null: all of them. */
    pane: text('pane'),
    /** The origins of the sites that may show it within pages of theirs. */
    sites: jsonb('sites').$type<readonly string[]>().notNull().default([]),
    endsAt: moment('ends_at').notNull(),
    madeAt: creation(),
  },
  (table) => [index('public_links_by_dashboard').on(table.dashboardId)],
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
    /** What whoever published it says of it. */
    remark: text('remark').notNull().default(''),
    madeAt: creation(),
    madeBy: uuid('made_by').references(() => users.id, { onDelete: 'set null' }),
  },
  (table) => [unique('versions_number').on(table.dashboardId, table.number)],
);
