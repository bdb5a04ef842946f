import { boolean, index, integer, jsonb, pgTable, primaryKey, text, uuid } from 'drizzle-orm/pg-core';
import { creation, moment } from './columns.ts';
import { users } from './people.ts';

/* Desks, and who holds which role on them. */

/** What somebody can be on a desk, highest first. */
export const deskRoleNames = ['analyst', 'supervisor', 'reader'] as const;
export type DeskRole = (typeof deskRoleNames)[number];

/** The colours that a desk can be told by, each of which has enough contrast on the mast of both themes. */
export const deskAccents = [
  'green',
  'cobalt',
  'amber',
  'rose',
  'seafoam',
  'violet',
  'sand',
  'slate',
] as const;
export type DeskAccent = (typeof deskAccents)[number];

export const desks = pgTable('desks', {
  id: uuid('id').primaryKey().defaultRandom(),
  slug: text('slug').notNull().unique(),
  name: text('name').notNull(),
  /** IANA name: days, weeks and months are those of this zone. */
  zone: text('zone').notNull(),
  /** The colour that its mast has an edge of. */
  accent: text('accent', { enum: deskAccents }).notNull().default('green'),
  /** Among the desks. */
  position: integer('position').notNull().default(0),
  /** Whether everybody who is signed in may read it. */
  isOpen: boolean('is_open').notNull().default(false),
  /** Whether its dashboards may be shown by a link without signing in. */
  publicLinks: boolean('public_links').notNull().default(false),
  madeAt: creation(),
});

/** A role is held on a desk. */
export const deskRoles = pgTable(
  'desk_roles',
  {
    deskId: uuid('desk_id')
      .notNull()
      .references(() => desks.id, { onDelete: 'cascade' }),
    userId: uuid('user_id')
      .notNull()
      .references(() => users.id, { onDelete: 'cascade' }),
    role: text('role', { enum: deskRoleNames }).notNull(),
  },
  (table) => [
    primaryKey({ columns: [table.deskId, table.userId] }),
    index('desk_roles_by_user').on(table.userId),
  ],
);

/** People who hold roles together. */
export const groups = pgTable('groups', {
  id: uuid('id').primaryKey().defaultRandom(),
  name: text('name').notNull().unique(),
  /** What it is called where people sign in, which then says who is in it; null: administrators say it here. */
  providerName: text('provider_name').unique(),
  madeAt: creation(),
});

export const groupMembers = pgTable(
  'group_members',
  {
    groupId: uuid('group_id')
      .notNull()
      .references(() => groups.id, { onDelete: 'cascade' }),
    userId: uuid('user_id')
      .notNull()
      .references(() => users.id, { onDelete: 'cascade' }),
  },
  (table) => [
    primaryKey({ columns: [table.groupId, table.userId] }),
    index('group_members_by_user').on(table.userId),
  ],
);

export const groupRoles = pgTable(
  'group_roles',
  {
    deskId: uuid('desk_id')
      .notNull()
      .references(() => desks.id, { onDelete: 'cascade' }),
    groupId: uuid('group_id')
      .notNull()
      .references(() => groups.id, { onDelete: 'cascade' }),
    role: text('role', { enum: deskRoleNames }).notNull(),
  },
  (table) => [primaryKey({ columns: [table.deskId, table.groupId] })],
);

/** People who were asked in and have not come yet. The key is the hash of what stands in their link. */
export const invites = pgTable('invites', {
  tokenHash: text('token_hash').primaryKey(),
  email: text('email').notNull(),
  name: text('name').notNull(),
  isAdministrator: boolean('is_administrator').notNull().default(false),
  /** By the desk's id. */
  roles: jsonb('roles').$type<Readonly<Record<string, DeskRole>>>().notNull().default({}),
  groups: jsonb('groups').$type<readonly string[]>().notNull().default([]),
  attributes: jsonb('attributes').$type<Readonly<Record<string, readonly string[]>>>().notNull().default({}),
  madeAt: creation(),
  madeBy: uuid('made_by').references(() => users.id, { onDelete: 'set null' }),
  expiresAt: moment('expires_at').notNull(),
});
