import type { Keep } from '#core/dataset/kept/schema.ts';
import type { DataSet } from '#core/dataset/schema.ts';
import type { GroupsPlan, RecordsPlan, Relation } from '#core/plan/plan.ts';
import type { Field } from '#core/value/field/field.ts';

/* Plans and data sets that ask for as little as can be, for tests to say what more they want. */

export const recordsOf = (from: Relation, more: Partial<RecordsPlan> = {}): RecordsPlan => ({
  kind: 'records',
  from,
  where: { all: [] },
  zone: 'Europe/London',
  fields: ['id'],
  order: [],
  offset: 0,
  limit: 10,
  ...more,
});

export const groupsOf = (from: Relation, more: Partial<GroupsPlan> = {}): GroupsPlan => ({
  kind: 'groups',
  from,
  where: { all: [] },
  zone: 'Europe/London',
  by: [],
  measures: [{ name: 'n', calculation: { kind: 'count' } }],
  order: [],
  limit: 10,
  ...more,
});

/** How many records there are, of how many ids and generations, and the newest of both: what shows a version that is not whole. */
export const wholenessOf = (from: Relation): GroupsPlan =>
  groupsOf(from, {
    zone: 'UTC',
    measures: [
      { name: 'count', calculation: { kind: 'count' } },
      { name: 'ids', calculation: { kind: 'distinct', field: 'id' } },
      { name: 'generations', calculation: { kind: 'distinct', field: 'generation' } },
      { name: 'newest', calculation: { kind: 'greatest', field: 'generation' } },
      { name: 'last', calculation: { kind: 'greatest', field: 'id' } },
    ],
    limit: 1,
  });

/** A table's columns as they are. */
export const tableOf = (table: string, fields: readonly Field[]) => ({
  kind: 'table' as const,
  schema: 'public',
  table,
  columns: fields.map(({ name, type }) => ({ column: name, name, type })),
  lookUps: [],
});

/** The records of such a table. */
export const fromTable = (table: string, fields: readonly Field[]): Relation => ({
  source: 'test',
  inputs: {},
  fields: [...fields],
  request: tableOf(table, fields),
});

/** A table of scans, kept. */
export const keptScans = (source: string, table: string, fields: Field[], keep: Keep): DataSet => ({
  version: 2,
  source,
  request: tableOf(table, fields),
  inputs: [],
  fields,
  key: 'id',
  noun: { one: 'scan', many: 'scans' },
  measures: [{ name: 'count', label: 'scans', calculation: { kind: 'count' } }],
  keep,
});
