import { z } from 'zod';
import { migrateDashboard, migrateDataSet } from '#core/dashboard/migrate.ts';
import { Dashboard } from '#core/dashboard/schema.ts';
import { DataSet } from '#core/dataset/schema.ts';

/*
 * Definitions as a file: what moves from one installation to another, and what teams keep under version control. It holds no records, no
 * credentials and no moment, so that what is the same is the same text.
 */

export const fileFormat = 'slate-glass/definitions';
export const fileVersion = 1;

const id = z.uuid();
const name = z.string().trim().min(1).max(500);

const shell = {
  format: z.literal(fileFormat),
  version: z.literal(fileVersion),
  /** Where records come from, without what it takes to get in. */
  sources: z.array(z.object({ id, name, connection: z.looseObject({ kind: z.string().max(60) }) })).max(1000),
};

const DataSetEntry = z.object({ id, name, definition: z.unknown() });
const DashboardEntry = z.object({
  id,
  /** Its name in addresses. */
  slug: z.string().min(1).max(100),
  /** The words that it stands under in the desk's menu; empty: by itself. */
  group: z.string().max(60).default(''),
  definition: z.unknown(),
});

/** As it is read: definitions may be of earlier versions. */
const Shell = z.object({
  ...shell,
  dataSets: z.array(DataSetEntry).max(5000),
  dashboards: z.array(DashboardEntry).max(5000),
});

/** As it is written, and as `docs/definitions.schema.json` describes it. */
export const DefinitionsFile = z.object({
  ...shell,
  dataSets: z.array(DataSetEntry.extend({ definition: DataSet })),
  dashboards: z.array(DashboardEntry.extend({ definition: Dashboard })),
});
export type DefinitionsFile = z.infer<typeof DefinitionsFile>;

/** A value whose objects have their members in the order of their names. */
function ordered(value: unknown): unknown {
  if (Array.isArray(value)) return value.map(ordered);
  if (typeof value !== 'object' || value === null) return value;
  return Object.fromEntries(
    Object.entries(value)
      .filter(([, each]) => each !== undefined)
      .sort(([a], [b]) => (a < b ? -1 : 1))
      .map(([key, each]) => [key, ordered(each)]),
  );
}

const byId = <T extends { readonly id: string }>(list: readonly T[]): T[] =>
  [...list].sort((a, b) => (a.id < b.id ? -1 : 1));

/** The text of a file: the same for the same definitions, with a line for each value, so that a difference is seen in lines. */
export const fileText = ({ sources, dataSets, dashboards, ...rest }: DefinitionsFile): string =>
  `${JSON.stringify(
    ordered({
      ...rest,
      sources: byId(sources),
      dataSets: byId(dataSets),
      dashboards: byId(dashboards),
    }),
    null,
    2,
  )}\n`;

export type ReadFile =
  | { readonly ok: true; readonly file: DefinitionsFile }
  | { readonly ok: false; readonly why: readonly string[] };

const mostProblems = 20;
const messageOf = (thrown: unknown): string =>
  thrown instanceof z.ZodError
    ? thrown.issues
        .slice(0, 3)
        .map(({ path, message }) => `${path.join(' › ') || 'the definition'}: ${message}`)
        .join('; ')
    : thrown instanceof Error
      ? thrown.message
      : String(thrown);

function repeated(ids: readonly string[]): string | undefined {
  const seen = new Set<string>();
  return ids.find((each) => seen.size === seen.add(each).size);
}

/** Reads a file of any version up to this one, or says in sentences why it cannot be. */
export function readDefinitions(text: string): ReadFile {
  let raw: unknown;
  try {
    raw = JSON.parse(text);
  } catch {
    return { ok: false, why: ['This is not JSON, or it was cut off.'] };
  }
  const { format, version } = (typeof raw === 'object' && raw !== null ? raw : {}) as Record<string, unknown>;
  if (format !== fileFormat) return { ok: false, why: ['This is not a file of definitions.'] };
  if (typeof version === 'number' && version > fileVersion)
    return {
      ok: false,
      why: [
        `The file is of version ${version}; this installation reads version ${fileVersion}. Upgrade it first.`,
      ],
    };
  const shellRead = Shell.safeParse(raw);
  if (!shellRead.success)
    return { ok: false, why: [`The file cannot be read: ${messageOf(shellRead.error)}.`] };
  const { dataSets, dashboards, ...rest } = shellRead.data;
  const twice = repeated([...rest.sources, ...dataSets, ...dashboards].map((each) => each.id));
  if (twice !== undefined) return { ok: false, why: [`The id ${twice} stands in the file twice.`] };
  const why: string[] = [];
  const migrated = <T>(what: string, run: () => T): T[] => {
    try {
      return [run()];
    } catch (thrown) {
      why.push(`${what}: ${messageOf(thrown)}`);
      return [];
    }
  };
  const file: DefinitionsFile = {
    ...rest,
    dataSets: dataSets.flatMap((entry) =>
      migrated(`The data set “${entry.name}”`, () => ({
        ...entry,
        definition: migrateDataSet(entry.definition),
      })),
    ),
    dashboards: dashboards.flatMap((entry) =>
      migrated(`The dashboard “${entry.slug}”`, () => ({
        ...entry,
        definition: migrateDashboard(entry.definition),
      })),
    ),
  };
  return why.length > 0 ? { ok: false, why: why.slice(0, mostProblems) } : { ok: true, file };
}
