import { allOf, type RecordsPlan } from '#core/plan/plan.ts';
import { compileCount, compileOrdered, type Query } from '#core/sql/compile.ts';
import { duckdb } from '#core/sql/dialect/columnar/dialect.ts';
import type { FieldType } from '#core/value/field/types.ts';
import { type Cell, cellText } from '#core/value/field/value.ts';

/*
 * A page far into many records. To put everything before it in order takes seconds; the values that its records lie between are
 * found by their places in a fraction of that, and then only what lies there is put in order.
 */

/** What has exact values whose places are found quickly. */
const placed: ReadonlySet<FieldType> = new Set(['integer', 'date', 'instant']);

/**
 * The same page as one of fewer records, which lie between its first and its last; null where there is no such thing: it is ordered
 * by a text, or reaches into the blanks. `ask` gives the records of a query.
 */
export async function nearerPage(
  plan: RecordsPlan,
  ask: (query: Query) => Promise<Cell[][]>,
): Promise<RecordsPlan | null> {
  const [order] = plan.order;
  const field = plan.from.fields.find(({ name }) => name === order?.by);
  if (!order || !field || !placed.has(field.type) || field.states?.length) return null;
  const { key: _, ...unkeyed } = plan;
  const values = compileOrdered({ ...unkeyed, fields: [field.name], order: [] }, duckdb);
  const among = `(${values.text}) AS values_there(place)`;
  const [[counted = null] = []] = await ask({
    text: `SELECT count(place) FROM ${among}`,
    values: values.values,
  });
  const count = Number(counted);
  const last = plan.offset + plan.limit - 1;
  if (last >= count) return null;
  // The value at a place, from 0 in ascending order, is what this part of them all leads to.
  const parts = [plan.offset, last].map((at) => ((order.descending ? count - 1 - at : at) + 0.5) / count);
  const ends = await ask({
    text: `SELECT unnest(list_sort(quantile_disc(place, [${parts.join(', ')}]))) FROM ${among}`,
    values: values.values,
  });
  const [least, greatest] = [cellText(ends[0]?.[0] ?? null), cellText(ends[1]?.[0] ?? null)];
  if (least === null || greatest === null) return null;
  const where = (...tests: RecordsPlan['where'][]): RecordsPlan['where'] => allOf([plan.where, ...tests]);
  const before = order.descending
    ? where({ field: field.name, test: { op: 'above', value: greatest } })
    : where({ field: field.name, test: { op: 'below', value: least } });
  const [[passed = null] = []] = await ask(compileCount({ ...plan, where: before }, duckdb));
  return {
    ...plan,
    where: where({ field: field.name, test: { op: 'between', from: least, to: greatest } }),
    offset: plan.offset - Number(passed),
  };
}
