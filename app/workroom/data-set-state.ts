import type { FoundTable } from '#core/dataset/found.ts';
import { dataSetFromTable, type TableChoice } from '#core/dataset/from-table.ts';
import { callInputs } from '#core/dataset/http/expand.ts';
import { proposedIdentity } from '#core/dataset/identity.ts';
import { inputNames } from '#core/dataset/inputs.ts';
import { oneTable } from '#core/dataset/one-table.ts';
import { withOutcome } from '#core/dataset/outcome.ts';
import type { DataSet } from '#core/dataset/schema.ts';
import type { World } from '#core/dataset/world.ts';
import type { Field } from '#core/value/field/field.ts';
import type { SourceTraits } from '#server/sources/traits.ts';
import type { Trial } from '#sources/kind.ts';

/* What happens to a data set while it is edited. Pure: each gives a new definition. */

/** The choice that a table request was made from. */
export function choiceOf(definition: DataSet): TableChoice {
  const table = oneTable(definition.request);
  if (!table) return { columns: [], lookUps: [] };
  return {
    columns: table.columns.map(({ column }) => column),
    lookUps: table.lookUps.map(({ by, take }) => ({ by, take: take.map(({ column }) => column) })),
  };
}

/** Fields made again, with what was said of them before, in the order they had; new ones come last. */
function keepSaid(fresh: readonly Field[], before: readonly Field[]): Field[] {
  const known = new Map(before.map((field) => [field.name, field]));
  const next = fresh.map((field) => {
    const old = known.get(field.name);
    return old
      ? {
          ...old,
          type: field.type,
          ...(field.origin ? { origin: field.origin } : {}),
          ...(field.refers ? { refers: field.refers } : {}),
        }
      : field;
  });
  const rank = (name: string): number => {
    const at = before.findIndex((field) => field.name === name);
    return at < 0 ? before.length : at;
  };
  return next.sort((a, b) => rank(a.name) - rank(b.name));
}

/** The data set of another choice of columns and look-ups. */
export function withChoice(
  definition: DataSet,
  table: FoundTable,
  tables: readonly FoundTable[],
  choice: TableChoice,
): DataSet {
  const fresh = dataSetFromTable(definition.source, table, tables, choice);
  const { key, title, ...rest } = definition;
  const has = (name: string | undefined): name is string =>
    name !== undefined && fresh.fields.some((field) => field.name === name);
  const [nextKey, nextTitle] = [has(key) ? key : fresh.key, has(title) ? title : fresh.title];
  return {
    ...rest,
    request: fresh.request,
    fields: keepSaid(fresh.fields, definition.fields),
    ...(nextKey ? { key: nextKey } : {}),
    ...(nextTitle ? { title: nextTitle } : {}),
  };
}

/** A change to what is asked for: it works on the fields that the request yields, and the steps are done over those again. */
export function beforeSteps(
  definition: DataSet,
  world: World,
  change: (request: DataSet) => DataSet,
): DataSet {
  const { steps, start, ...rest } = definition;
  if (!steps?.length) return change(definition);
  const changed = change({ ...rest, fields: start ?? definition.fields });
  const { key, title } = definition;
  return withOutcome(
    {
      ...changed,
      start: changed.fields,
      fields: definition.fields,
      steps,
      ...(key === undefined ? {} : { key }),
      ...(title === undefined ? {} : { title }),
    },
    world,
  );
}

/** SQL text as it is typed: its inputs are found by themselves, and keep what was said of them. */
export function withText(definition: DataSet, text: string): DataSet {
  const known = new Map(definition.inputs.map((input) => [input.name, input]));
  return {
    ...definition,
    request: {
      kind: 'sql',
      text,
      columns: definition.request.kind === 'sql' ? definition.request.columns : [],
    },
    inputs: inputNames(text).map((name) => known.get(name) ?? { name, type: 'text', required: true }),
  };
}

/** The data set once its request was tried: the fields are those of the answer. */
export function withTrial(definition: DataSet, tried: Trial): DataSet {
  const fields = keepSaid(tried.fields, definition.fields);
  const { key, title, ...rest } = definition;
  const has = (name: string | undefined): name is string =>
    name !== undefined && fields.some((field) => field.name === name);
  return {
    ...rest,
    request: tried.request,
    fields,
    // What is not said yet is proposed by what came; what somebody has said stays.
    ...(definition.fields.length === 0 ? proposedBy(tried, definition.noun.one) : {}),
    ...(has(key) ? { key } : {}),
    ...(has(title) ? { title } : {}),
  };
}

/** What identifies and what names a record, as far as the records that were tried show it. */
function proposedBy({ fields, records }: Trial, noun: string): Pick<DataSet, 'key' | 'title'> {
  const cells = (name: string): unknown[] => {
    const at = fields.findIndex((field) => field.name === name);
    return records.map((record) => record[at] ?? null);
  };
  return proposedIdentity(fields, noun, {
    isUnique: (name) => {
      const values = cells(name);
      return values.length > 1 && !values.includes(null) && new Set(values).size === values.length;
    },
    isBlank: (name) => cells(name).every((cell) => cell === null),
  });
}

/** A request that has been described again: its inputs are found by themselves, and keep what was said of them. */
export function withRequest(definition: DataSet, request: DataSet['request']): DataSet {
  if (request.kind !== 'http') return { ...definition, request };
  const known = new Map(definition.inputs.map((input) => [input.name, input]));
  const inputs = callInputs(request.call).map(
    (name) => known.get(name) ?? { name, type: 'text' as const, required: false },
  );
  return { ...definition, request, inputs };
}

/** What a source is asked while nothing has been said; null where one chooses first. */
export const startOf = (source: string, { begins }: Pick<SourceTraits, 'begins'>): DataSet | null =>
  begins && { ...empty(source, begins.request), ...(begins.keep ? { keep: begins.keep } : {}) };

export const emptySql = (source: string): DataSet => empty(source, { kind: 'sql', text: '', columns: [] });

const empty = (source: string, request: DataSet['request']): DataSet => ({
  version: 2,
  source,
  request,
  inputs: [],
  fields: [],
  noun: { one: 'record', many: 'records' },
  measures: [{ name: 'count', label: 'records', calculation: { kind: 'count' } }],
});
