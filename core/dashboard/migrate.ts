import type { z } from 'zod';
import { DataSet } from '#core/dataset/schema.ts';
import { Dashboard } from './schema.ts';

/** Steps from each version of a definition to the next; the step at index 0 takes version 1 to 2. */
type Steps = readonly ((definition: Record<string, unknown>) => Record<string, unknown>)[];

type Json = Record<string, unknown>;

const isObject = (value: unknown): value is Json =>
  typeof value === 'object' && value !== null && !Array.isArray(value);

/** The same object with a member under another name; one without the member stays as it is. */
function renamed(object: Json, from: string, to: string): Json {
  const { [from]: value, ...rest } = object;
  return value === undefined ? object : { ...rest, [to]: value };
}

/** Every reference to a data set inside a step, with `cut` as `subset`. */
function inRefs(value: unknown): unknown {
  if (Array.isArray(value)) return value.map(inRefs);
  if (!isObject(value)) return value;
  const inner = Object.fromEntries(Object.entries(value).map(([name, each]) => [name, inRefs(each)]));
  return typeof inner.dataSet === 'string' ? renamed(inner, 'cut', 'subset') : inner;
}

const list = (value: unknown): Json[] => (Array.isArray(value) ? value.filter(isObject) : []);

/** Kinds of panes that are called otherwise since version 3, as they are now. */
const formerKinds: Readonly<Record<string, Json>> = { 'new-record': { kind: 'form', about: 'new' } };

/** A pane that is grouped, which was by one field alone until version 3. */
function groupsAsLevels({ groupedBy: field, groupUnit: unit, ...pane }: Json): Json {
  return field === undefined ? pane : { ...pane, groups: [{ field, ...(unit ? { unit } : {}) }] };
}

const dashboardSteps: Steps = [
  (dashboard) => ({
    ...dashboard,
    version: 2,
    panes: list(dashboard.panes).map((pane) => renamed(pane, 'cut', 'subset')),
  }),
  (dashboard) => ({
    ...dashboard,
    version: 3,
    panes: list(dashboard.panes).map((pane) => ({ ...pane, ...formerKinds[String(pane.kind)] })),
  }),
  (dashboard) => ({ ...dashboard, version: 4, panes: list(dashboard.panes).map(groupsAsLevels) }),
];
const dataSetSteps: Steps = [
  (dataSet) => ({
    ...renamed(renamed(dataSet, 'cuts', 'subsets'), 'meant', 'acceptedWarnings'),
    version: 2,
    ...(isObject(dataSet.request) ? { request: renamed(dataSet.request, 'cut', 'subset') } : {}),
    ...(dataSet.steps === undefined ? {} : { steps: inRefs(dataSet.steps) }),
  }),
];

function migrated<T>(raw: unknown, steps: Steps, schema: z.ZodType<T>, what: string): T {
  if (typeof raw !== 'object' || raw === null) throw new TypeError(`${what} is not an object`);
  let definition = raw as Record<string, unknown>;
  const version = Number(definition.version);
  if (!Number.isInteger(version) || version < 1 || version > steps.length + 1)
    throw new RangeError(
      `${what} has version ${String(definition.version)}; this installation reads up to ${steps.length + 1}`,
    );
  for (const step of steps.slice(version - 1)) definition = step(definition);
  return schema.parse(definition);
}

/** Reads a stored or imported definition of any version up to the current one. Throws on anything else. */
export const migrateDashboard = (raw: unknown): Dashboard =>
  migrated(raw, dashboardSteps, Dashboard, 'the dashboard');
export const migrateDataSet = (raw: unknown): DataSet => migrated(raw, dataSetSteps, DataSet, 'the data set');
