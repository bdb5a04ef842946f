import { isDeepStrictEqual } from 'node:util';
import { type Filter, fieldsOf, partsOf } from '#core/ask/condition/resolve.ts';
import { allOf, type Plan, type RecordsPlan } from '#core/plan/plan.ts';
import { spanWithin } from '#core/plan/span.ts';
import { compileCount, compileOrdered } from '#core/sql/compile.ts';
import { duckdb } from '#core/sql/dialect/columnar/dialect.ts';
import type { ColumnarDatabase } from '#engine/columnar/database.ts';
import { runColumnar } from '#engine/columnar/run.ts';
import type { Rooms } from './rooms.ts';

/** The records that pass a filter, in a table of the engine's. */
export interface Extract {
  readonly table: string;
  readonly where: Filter;
  /** How many there are. */
  readonly records: number;
}

/** Records of one version, with the fields that are wanted of them. */
export interface Wanted {
  readonly from: Plan['from'];
  readonly zone: string;
  readonly where: Filter;
  readonly fields: readonly string[];
  /** How many records the version has. */
  readonly records: number;
}

/** An extract holds at most this many values, and at most this share of all records. */
const valueLimit = 6_000_000;
const maxShare = 0.25;

const doing = { doing: 'copying the records of a scope' };

const planOf = ({ from, zone, where, fields }: Wanted): RecordsPlan => ({
  kind: 'records',
  from,
  zone,
  where,
  fields,
  order: [],
  offset: 0,
  limit: 0,
});

/** A plan without the conditions that a filter has too. */
export function without<P extends Plan>(plan: P, filter: Filter): P {
  const common = partsOf(filter);
  const own = partsOf(plan.where).filter((part) => !common.some((other) => isDeepStrictEqual(other, part)));
  return { ...plan, where: allOf(own) };
}

/** A plan with one more condition. */
export const also = <P extends Plan>(plan: P, filter: Filter): P => ({
  ...plan,
  where: allOf([...partsOf(plan.where), ...partsOf(filter)]),
});

/** The same plan on an extract, without the conditions that all records there pass. */
export function onExtract<P extends Plan>(plan: P, { table, where }: Extract): P {
  const spans = { ...plan.from.spans };
  for (const field of fieldsOf(plan.where)) {
    const span = spanWithin(plan.where, field, spans[field]);
    if (span) spans[field] = span;
  }
  return {
    ...without(plan, where),
    from: { ...plan.from, spans, request: { kind: 'kept', name: table } },
  };
}

/** Whether the records are so few that to copy them saves time. */
export async function areFew(wanted: Wanted, engine: ColumnarDatabase): Promise<boolean> {
  const query = compileCount(planOf(wanted), duckdb);
  const [[counted = null] = []] = (await runColumnar(engine, query, doing)).records;
  const count = Number(counted);
  return count <= wanted.records * maxShare && count * wanted.fields.length <= valueLimit;
}

/** Copies records into a table, out of an extract that has all of them where there is one. Null where there is no table free. */
export async function copyRecords(
  wanted: Wanted,
  rooms: Rooms,
  engine: ColumnarDatabase,
  out?: Extract,
): Promise<Extract | null> {
  const table = rooms.take();
  if (table === null) return null;
  try {
    const plan = planOf(wanted);
    const query = compileOrdered(out ? onExtract(plan, out) : plan, duckdb);
    return { table, where: wanted.where, records: await engine.copyToTable(table, query) };
  } catch (error) {
    await rooms.give(table);
    throw error;
  }
}
