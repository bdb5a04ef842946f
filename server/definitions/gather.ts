import { and, asc, eq, inArray, sql } from 'drizzle-orm';
import { usedDataSets } from '#core/dashboard/flow/context.ts';
import { migrateDashboard } from '#core/dashboard/migrate.ts';
import { type DefinitionsFile, fileFormat, fileVersion } from '#core/definitions/file.ts';
import type { Present } from '#core/definitions/review.ts';
import { comesFrom } from '#core/lineage/reach.ts';
import { allDataSets } from '../store/data-sets.ts';
import { database } from '../store/database.ts';
import { listSources } from '../store/sources.ts';
import { dashboards } from '../store/tables/dashboards.ts';

/** What goes into a file: everything of some desks, or one dashboard or data set, each with all that it needs. */
export type Wanted =
  | { readonly desks: readonly string[] }
  | { readonly dashboard: string }
  | { readonly dataSet: string };

/** The definitions that are wanted with the data sets and sources that they need, as they are drafted now. */
export async function gatherDefinitions(wanted: Wanted): Promise<DefinitionsFile> {
  const which =
    'desks' in wanted
      ? inArray(dashboards.deskId, [...wanted.desks])
      : 'dashboard' in wanted
        ? eq(dashboards.id, wanted.dashboard)
        : sql`false`;
  const [rows, all, sources] = await Promise.all([
    database().select().from(dashboards).where(and(which)).orderBy(asc(dashboards.position)),
    allDataSets(),
    listSources(),
  ]);
  const drafts = rows.map(({ id, slug, menuGroup, draft }) => ({
    id,
    slug,
    group: menuGroup,
    definition: migrateDashboard(draft),
  }));
  const world = new Map(all.map(({ id, definition }) => [id, definition]));
  const start =
    'dataSet' in wanted ? [wanted.dataSet] : drafts.flatMap((each) => usedDataSets(each.definition));
  const needed = new Set(start.flatMap((id) => [...comesFrom(id, world)]));
  const dataSets = all
    .filter(({ id }) => needed.has(id))
    .map(({ id, name, definition }) => ({ id, name, definition }));
  const sourceIds = new Set(dataSets.map(({ definition }) => definition.source));
  return {
    format: fileFormat,
    version: fileVersion,
    sources: sources
      .filter(({ id }) => sourceIds.has(id))
      .map(({ id, name, connection }) => ({ id, name, connection: { ...connection } })),
    dataSets,
    dashboards: drafts,
  };
}

/** What is here, for a file to be held against. */
export async function presentDefinitions(): Promise<Present> {
  const [rows, all] = await Promise.all([
    database().select({ id: dashboards.id, draft: dashboards.draft }).from(dashboards),
    allDataSets(),
  ]);
  return {
    dataSets: new Map(all.map(({ id, name, definition }) => [id, { name, definition }])),
    dashboards: new Map(rows.map(({ id, draft }) => [id, migrateDashboard(draft)])),
  };
}
