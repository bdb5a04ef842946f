import { index, jsonb, pgTable, text, uuid } from 'drizzle-orm/pg-core';
import { creation, moment } from './columns.ts';
import { users } from './people.ts';

/** Keys that programs ask for results with, as the person whose they are. Only hashes are kept. */
export const accessKeys = pgTable(
  'access_keys',
  {
    id: uuid('id').primaryKey().defaultRandom(),
    keyHash: text('key_hash').notNull().unique(),
    userId: uuid('user_id')
      .notNull()
      .references(() => users.id, { onDelete: 'cascade' }),
    /** What it is for. */
    name: text('name').notNull(),
    /** What it reaches, by id: of these what its person may still reach. */
    dashboards: jsonb('dashboards').$type<readonly string[]>().notNull().default([]),
    dataSets: jsonb('data_sets').$type<readonly string[]>().notNull().default([]),
    madeAt: creation(),
    expiresAt: moment('expires_at'),
    usedAt: moment('used_at'),
  },
  (table) => [index('access_keys_by_user').on(table.userId)],
);
