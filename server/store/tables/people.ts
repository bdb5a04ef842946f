import { sql } from 'drizzle-orm';
import {
  bigint,
  boolean,
  index,
  integer,
  jsonb,
  pgTable,
  primaryKey,
  text,
  uuid,
  varchar,
} from 'drizzle-orm/pg-core';
import { bytes, creation, moment } from './columns.ts';

/* Who may sign in, and the sessions they have. */

export const users = pgTable('users', {
  id: uuid('id').primaryKey().defaultRandom(),
  email: text('email').notNull().unique(),
  name: text('name').notNull(),
  passwordHash: text('password_hash').notNull(),
  isAdministrator: boolean('is_administrator').notNull().default(false),
  /** What is known of the person, by name; row rules ask for it. */
  attributes: jsonb('attributes').$type<Readonly<Record<string, readonly string[]>>>().notNull().default({}),
  /** What the codes of a two-step sign-in are worked out from, sealed; null where there is no second step. */
  twoStepSecret: bytes('two_step_secret'),
  /** The last step of time whose code was used, so that none is used twice. */
  twoStepUsed: bigint('two_step_used', { mode: 'number' }).notNull().default(0),
  /** Who the provider says that they are who signs them in (OpenID Connect, `iss` and `sub`); null: nobody has yet. */
  subject: text('subject').unique(),
  /** When a session was last begun. */
  signedInAt: moment('signed_in_at'),
  madeAt: creation(),
});

/** Codes that stand in for the second step once each, hashed. */
export const recoveryCodes = pgTable(
  'recovery_codes',
  {
    userId: uuid('user_id')
      .notNull()
      .references(() => users.id, { onDelete: 'cascade' }),
    codeHash: text('code_hash').notNull(),
  },
  (table) => [primaryKey({ columns: [table.userId, table.codeHash] })],
);

/** The key is the hash of the token in the cookie, so that reading this table signs nobody in. */
export const sessions = pgTable(
  'sessions',
  {
    tokenHash: text('token_hash').primaryKey(),
    userId: uuid('user_id')
      .notNull()
      .references(() => users.id, { onDelete: 'cascade' }),
    /** The network address that it was begun from, and what the browser called itself. */
    address: text('address').notNull().default(''),
    browser: text('browser').notNull().default(''),
    madeAt: creation(),
    expiresAt: moment('expires_at').notNull(),
  },
  (table) => [index('sessions_by_expiry').on(table.expiresAt), index('sessions_by_user').on(table.userId)],
);

/** Browsers that somebody has signed in from, by the hash of what they say of themselves. */
export const places = pgTable(
  'places',
  {
    placeHash: text('place_hash').notNull(),
    userId: uuid('user_id')
      .notNull()
      .references(() => users.id, { onDelete: 'cascade' }),
    seenAt: moment('seen_at').notNull().default(sql`now()`),
  },
  (table) => [primaryKey({ columns: [table.placeHash, table.userId] })],
);

/** Counts of tries, as the library that limits them has them. */
export const rateLimits = pgTable('rate_limits', {
  key: varchar('key', { length: 255 }).primaryKey(),
  points: integer('points').notNull().default(0),
  /** Milliseconds since 1970; null: never. */
  expire: bigint('expire', { mode: 'number' }),
});
