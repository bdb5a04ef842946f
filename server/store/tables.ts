import { sql } from 'drizzle-orm';
import {
  bigint,
  bigserial,
  boolean,
  customType,
  date,
  index,
  integer,
  jsonb,
  pgTable,
  primaryKey,
  text,
  timestamp,
  unique,
  uniqueIndex,
  uuid,
  varchar,
} from 'drizzle-orm/pg-core';
import type { Condition } from '#core/ask/condition/schema.ts';

const bytes = customType<{ data: Buffer }>({ dataType: () => 'bytea' });
const moment = (name: string) => timestamp(name, { withTimezone: true, mode: 'date' });

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

const creation = () => moment('made_at').notNull().default(sql`now()`);

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
