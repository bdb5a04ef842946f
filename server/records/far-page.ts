import { allOf, type RecordsPlan } from '#core/plan/plan.ts';
import { compileCount, compileOrdered, type Query } from '#core/sql/compile.ts';
import { duckdb } from '#core/sql/dialect/columnar/dialect.ts';
import type { FieldType } from '#core/value/field/types.ts';
import { type Cell, cellText } from '#core/value/field/value.ts';

/*
 * A page far into many records. To sort everything before it takes seconds. The values of its first and last record are found by
 * their rank in a fraction of that, and then only the records between the two are sorted.
 */

/** The types whose value at a place is found exactly and quickly. */
const rankedTypes: ReadonlySet<FieldType> = new Set(['integer', 'date', 'instant']);

/**
 * The same page of fewer records: those from its first to its last. Null where that cannot be told: it is sorted by a text or a unit of time, or
 * reaches into the blanks. `ask` runs a query.
 */
export async function nearerPage(
  plan: RecordsPlan,
  ask: (query: Query) => Promise<Cell[][]>,
): Promise<RecordsPlan | null> {
  const [order] = plan.order;
  const field = plan.from.fields.find(({ name }) => name === order?.by);
  if (!order || order.unit || !field || !rankedTypes.has(field.type) || field.states?.length) return null;
  const { key: _, ...unkeyed } = plan;
  const valueQuery = compileOrdered({ ...unkeyed, fields: [field.name], order: [] }, duckdb);
  const among = `(${valueQuery.text}) AS ranked(place)`;
  const [[countCell = null] = []] = await ask({
    text: `SELECT count(place) FROM ${among}`,
    values: valueQuery.values,
  });
  const count = Number(countCell);
  const last = plan.offset + plan.limit - 1;
  if (last >= count) return null;
  // A quantile of exactly the value at an index, from 0 in ascending order.
  const quantiles = [plan.offset, last].map((at) => ((order.descending ? count - 1 - at : at) + 0.5) / count);
  const ends = await ask({
    text: `SELECT unnest(list_sort(quantile_disc(place, [${quantiles.join(', ')}]))) FROM ${among}`,
    values: valueQuery.values,
  });
  const [least, greatest] = [cellText(ends[0]?.[0] ?? null), cellText(ends[1]?.[0] ?? null)];
  if (least === null || greatest === null) return null;
  const where = (...tests: RecordsPlan['where'][]): RecordsPlan['where'] => allOf([plan.where, ...tests]);
  const before = order.descending
    ? where({ field: field.name, test: { op: 'above', value: greatest } })
    : where({ field: field.name, test: { op: 'below', value: least } });
  const [[precedingCell = null] = []] = await ask(compileCount({ ...plan, where: before }, duckdb));
  return {
    ...plan,
    where: where({ field: field.name, test: { op: 'between', from: least, to: greatest } }),
    offset: plan.offset - Number(precedingCell),
  };
}
