import { createHash } from 'node:crypto';
import { and, asc, desc, eq, isNotNull, sql } from 'drizzle-orm';
import { usedDataSets } from '#core/dashboard/flow/context.ts';
import { migrateDashboard, migrateDataSet } from '#core/dashboard/migrate.ts';
import type { Dashboard } from '#core/dashboard/schema.ts';
import type { DataSet } from '#core/dataset/schema.ts';
import { freeName } from '#core/value/field/free-name.ts';
import { putRecent } from '#core/value/recent.ts';
import { findDataSets, rowRules } from './data-sets.ts';
import { database, inTransaction } from './database.ts';
import { type Desk, deskOf } from './desks.ts';
import { dashboards, versions } from './tables/dashboards.ts';
import { desks } from './tables/desks.ts';
import { users } from './tables/people.ts';

/** What a save came to: the new revision, or who saved in between and when. */
export type SaveOutcome =
  | { ok: true; revision: number }
  | { ok: false; revision: number; by: string; at: Date };

export interface MenuItem {
  readonly id: string;
  readonly slug: string;
  readonly title: string;
  readonly published: boolean;
  /** The words that it stands under with others; empty: by itself. */
  readonly group: string;
}

export interface DashboardWithData {
  readonly id: string;
  readonly slug: string;
  readonly desk: Desk;
  readonly dashboard: Dashboard;
  readonly dataSets: Map<string, DataSet>;
}

export interface Draft extends DashboardWithData {
  readonly revision: number;
  readonly published: number | null;
  readonly savedAt: Date;
}

/** The desk that a dashboard stands on. */
export async function deskOfDashboard(id: string): Promise<string | null> {
  const [found] = await database()
    .select({ deskId: dashboards.deskId })
    .from(dashboards)
    .where(eq(dashboards.id, id))
    .limit(1);
  return found?.deskId ?? null;
}

/** A desk's dashboards in menu order. Readers are given the published ones only, under their published titles. */
export async function menuOf(deskId: string, published: boolean): Promise<MenuItem[]> {
  const rows = await database()
    .select({
      id: dashboards.id,
      slug: dashboards.slug,
      published: dashboards.published,
      group: dashboards.menuGroup,
      title: published
        ? sql<string>`${versions.definition}->>'title'`
        : sql<string>`${dashboards.draft}->>'title'`,
    })
    .from(dashboards)
    .leftJoin(
      versions,
      and(eq(versions.dashboardId, dashboards.id), eq(versions.number, dashboards.published)),
    )
    .where(
      published
        ? and(eq(dashboards.deskId, deskId), isNotNull(dashboards.published))
        : eq(dashboards.deskId, deskId),
    )
    .orderBy(asc(dashboards.position), asc(dashboards.madeAt));
  return rows.map((row) => ({ ...row, published: row.published !== null }));
}

/** A version never changes once it is published, so each is read and checked once; the latest few hundred stay. */
const parsed = new Map<string, Pick<DashboardWithData, 'dashboard' | 'dataSets'>>();
const mostParsed = 300;

/** A version as it was published. */
export async function versionOf(
  dashboardId: string,
  number: number,
): Promise<Pick<DashboardWithData, 'dashboard' | 'dataSets'> | null> {
  const key = `${dashboardId} ${number}`;
  const known = parsed.get(key);
  if (known) return known;
  const [row] = await database()
    .select({ definition: versions.definition, dataSets: versions.dataSets })
    .from(versions)
    .where(and(eq(versions.dashboardId, dashboardId), eq(versions.number, number)))
    .limit(1);
  if (!row) return null;
  const frozen = row.dataSets as Record<string, unknown>;
  const version = {
    dashboard: migrateDashboard(row.definition),
    dataSets: new Map(Object.entries(frozen).map(([id, each]) => [id, migrateDataSet(each)])),
  };
  putRecent(parsed, key, version, mostParsed);
  return version;
}

type Definitions = Pick<DashboardWithData, 'dashboard' | 'dataSets'>;

/** A version with the rules of now about who sees which records; the same object while both stay the same. */
const ruled = new WeakMap<Definitions, { readonly stamp: string; readonly version: Definitions }>();

/** What is published keeps its definitions, but who sees which records is as it is now: a rule holds as soon as it is saved. */
async function versionNow(dashboardId: string, number: number): Promise<Definitions | null> {
  const [version, rules] = await Promise.all([versionOf(dashboardId, number), rowRules()]);
  if (!version) return null;
  const ids = [...version.dataSets.keys()].sort();
  const stamp = JSON.stringify(ids.map((id) => rules.get(id) ?? null));
  const known = ruled.get(version);
  if (known?.stamp === stamp) return known.version;
  const now = {
    dashboard: { ...version.dashboard },
    dataSets: new Map(
      [...version.dataSets].map(([id, { rowRule: _, ...dataSet }]): [string, DataSet] => {
        const rowRule = rules.get(id);
        return [id, rowRule ? { ...dataSet, rowRule } : dataSet];
      }),
    ),
  };
  ruled.set(version, { stamp, version: now });
  return now;
}

/**
 * What readers get, or a version by its number, with the data sets as they were when it was published, and the rules about who sees what
 * as they are now.
 */
export async function findPublished(
  where: { id: string } | { deskId: string; slug: string },
  number?: number,
): Promise<DashboardWithData | null> {
  const [row] = await database()
    .select({ id: dashboards.id, slug: dashboards.slug, published: dashboards.published, desk: deskOf })
    .from(dashboards)
    .innerJoin(desks, eq(desks.id, dashboards.deskId))
    .where(
      'id' in where
        ? eq(dashboards.id, where.id)
        : and(eq(dashboards.deskId, where.deskId), eq(dashboards.slug, where.slug)),
    )
    .limit(1);
  const wanted = number ?? row?.published;
  const version = row && wanted ? await versionNow(row.id, wanted) : null;
  return row && version ? { id: row.id, slug: row.slug, desk: row.desk, ...version } : null;
}

/** What the analyst works on, with the data sets as they are now. */
export async function findDraft(id: string): Promise<Draft | null> {
  const [row] = await database()
    .select({ dashboard: dashboards, desk: deskOf })
    .from(dashboards)
    .innerJoin(desks, eq(desks.id, dashboards.deskId))
    .where(eq(dashboards.id, id))
    .limit(1);
  if (!row) return null;
  const dashboard = migrateDashboard(row.dashboard.draft);
  const { slug, revision, published, savedAt } = row.dashboard;
  return {
    id,
    slug,
    desk: row.desk,
    dashboard,
    dataSets: await findDataSets(usedDataSets(dashboard)),
    revision,
    published,
    savedAt,
  };
}

export async function addDashboard(added: {
  id: string;
  deskId: string;
  /** What it is to be called in addresses; where another of the desk is, it gets a number. */
  slug: string;
  draft: Dashboard;
  by: string | null;
}): Promise<void> {
  await inTransaction(async (tx) => {
    // One after the other on a desk: one that is added twice at once is there the second time, and no two take one name or place.
    await tx.select({ id: desks.id }).from(desks).where(eq(desks.id, added.deskId)).for('update');
    const there = await tx
      .select({ id: dashboards.id, slug: dashboards.slug, position: dashboards.position })
      .from(dashboards)
      .where(eq(dashboards.deskId, added.deskId));
    if (there.some(({ id }) => id === added.id)) return;
    const taken = new Set(there.map(({ slug }) => slug));
    await tx.insert(dashboards).values({
      id: added.id,
      deskId: added.deskId,
      slug: freeName(added.slug, (slug) => taken.has(slug), '-'),
      draft: added.draft,
      savedBy: added.by,
      position: Math.max(0, ...there.map(({ position }) => position)) + 1,
    });
  });
}

/** Moves a dashboard to another desk, behind those that are there; where its name in addresses is taken, it gets a number. */
export async function moveDashboard(id: string, deskId: string): Promise<void> {
  await inTransaction(async (tx) => {
    await tx.select({ id: desks.id }).from(desks).where(eq(desks.id, deskId)).for('update');
    const [moved] = await tx.select({ slug: dashboards.slug }).from(dashboards).where(eq(dashboards.id, id));
    const there = await tx
      .select({ slug: dashboards.slug, position: dashboards.position })
      .from(dashboards)
      .where(eq(dashboards.deskId, deskId));
    if (!moved) return;
    const taken = new Set(there.map(({ slug }) => slug));
    await tx
      .update(dashboards)
      .set({
        deskId,
        menuGroup: '',
        slug: freeName(moved.slug, (slug) => taken.has(slug), '-'),
        position: Math.max(0, ...there.map(({ position }) => position)) + 1,
      })
      .where(eq(dashboards.id, id));
  });
}

/** What a dashboard is called in addresses, from a title in any script. */
export const slugOf = (title: string): string =>
  title
    .toLowerCase()
    .normalize('NFKD')
    // Accents of Latin letters go; the vowel signs of other scripts are part of the word.
    .replace(/[\u0300-\u036f]/g, '')
    .replace(/[^\p{L}\p{N}\p{M}]+/gu, '-')
    .replace(/^-+|-+$/g, '')
    .slice(0, 60) || 'dashboard';

/** Saves a draft over the revision that the editor started from; a save that came between is reported, not lost. */
export async function saveDraft(change: {
  id: string;
  draft: Dashboard;
  revision: number;
  by: string;
}): Promise<SaveOutcome> {
  const [saved] = await database()
    .update(dashboards)
    .set({ draft: change.draft, revision: change.revision + 1, savedAt: new Date(), savedBy: change.by })
    .where(and(eq(dashboards.id, change.id), eq(dashboards.revision, change.revision)))
    .returning({ revision: dashboards.revision });
  return saved ? { ok: true, revision: saved.revision } : lastSave(change.id);
}

/** Who saved a draft last, as a save is told of that it crosses. */
export async function lastSave(id: string): Promise<Extract<SaveOutcome, { ok: false }>> {
  const [now] = await database()
    .select({ revision: dashboards.revision, at: dashboards.savedAt, by: users.name })
    .from(dashboards)
    .leftJoin(users, eq(users.id, dashboards.savedBy))
    .where(eq(dashboards.id, id));
  return { ok: false, revision: now?.revision ?? 0, by: now?.by ?? 'somebody', at: now?.at ?? new Date() };
}

/** Without the rules about who sees which records, which hold without being published. */
const sorted = (dataSets: ReadonlyMap<string, DataSet>): [string, DataSet][] =>
  [...dataSets]
    .map(([id, { rowRule: _, ...dataSet }]): [string, DataSet] => [id, dataSet])
    .sort(([a], [b]) => (a < b ? -1 : 1));

/** The same text for the same draft with the same data sets, and another for any other. */
export const stampOf = ({ dashboard, dataSets }: Pick<Draft, 'dashboard' | 'dataSets'>): string =>
  createHash('sha256')
    .update(JSON.stringify([dashboard, sorted(dataSets)]))
    .digest('base64url');

/** Whether what readers have is the draft as it is now. */
export async function isAsPublished(draft: Draft): Promise<boolean> {
  const version = draft.published === null ? null : await versionOf(draft.id, draft.published);
  return version !== null && stampOf(version) === stampOf(draft);
}

export type Published = { ok: true; number: number } | { ok: false; why: string };

/**
 * Makes the draft, with its data sets as they are now, what readers get. `stamp` names the draft that is meant (see
 * {@link stampOf}): what a colleague saved meanwhile is not published unseen. Null publishes whatever there is.
 */
export async function publish(
  id: string,
  by: string | null,
  stamp: string | null,
  remark = '',
): Promise<Published> {
  const draft = await findDraft(id);
  if (!draft) throw new Error('there is no such dashboard');
  if (draft.dashboard.panes.length === 0)
    return { ok: false, why: 'There is nothing on this dashboard yet. Add a pane first.' };
  return inTransaction(async (tx): Promise<Published> => {
    // The row lock makes people who save and publish at once take turns.
    const [now] = await tx
      .select({ revision: dashboards.revision, by: users.name })
      .from(dashboards)
      .leftJoin(users, eq(users.id, dashboards.savedBy))
      .where(eq(dashboards.id, id))
      .for('update', { of: dashboards });
    if (now?.revision !== draft.revision || (stamp !== null && stamp !== stampOf(draft)))
      return {
        ok: false,
        why: `${now?.by ?? 'Somebody'} has changed this draft or its data sets since you opened it. Look at it as it is now, then publish.`,
      };
    const [last] = await tx
      .select({ number: versions.number })
      .from(versions)
      .where(eq(versions.dashboardId, id))
      .orderBy(desc(versions.number))
      .limit(1);
    const number = (last?.number ?? 0) + 1;
    await tx.insert(versions).values({
      dashboardId: id,
      number,
      definition: draft.dashboard,
      dataSets: Object.fromEntries(draft.dataSets),
      remark,
      madeBy: by,
    });
    await tx.update(dashboards).set({ published: number }).where(eq(dashboards.id, id));
    return { ok: true, number };
  });
}

/** Earlier and current versions, latest first. */
export async function listVersions(
  id: string,
): Promise<{ number: number; at: Date; by: string | null; remark: string }[]> {
  return database()
    .select({ number: versions.number, at: versions.madeAt, by: users.name, remark: versions.remark })
    .from(versions)
    .leftJoin(users, eq(users.id, versions.madeBy))
    .where(eq(versions.dashboardId, id))
    .orderBy(desc(versions.number));
}

/** Removes a dashboard with its versions and its draft. */
export async function removeDashboard(id: string): Promise<void> {
  await database().delete(dashboards).where(eq(dashboards.id, id));
}

/** Gives readers an earlier version again; null takes the dashboard away from them. */
export async function setPublished(id: string, number: number | null): Promise<void> {
  await database().update(dashboards).set({ published: number }).where(eq(dashboards.id, id));
}
