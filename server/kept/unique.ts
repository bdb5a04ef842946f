import { totals } from '#core/plan/plan.ts';
import { compile } from '#core/sql/compile.ts';
import { duckdb } from '#core/sql/dialect/columnar/dialect.ts';
import type { Field } from '#core/value/field/field.ts';
import { putRecent } from '#core/value/recent.ts';
import { runColumnar } from '#engine/columnar/run.ts';
import { columnar } from './open.ts';

/** What is known of views' fields, the latest used last. */
const known = new Map<string, Promise<boolean>>();
const mostKnown = 1000;

/**
 * Whether no two records of a view of the columnar engine share a value of a field, blanks aside. A view always stands for the
 * same records, so it is looked through once. What cannot be found out counts as no.
 */
export function isUnique(view: string, field: Field): Promise<boolean> {
  const key = JSON.stringify([view, field.name]);
  const answer = known.get(key) ?? lookedThrough(view, field);
  putRecent(known, key, answer, mostKnown);
  return answer;
}

async function lookedThrough(view: string, field: Field): Promise<boolean> {
  const from = { source: '', request: { kind: 'kept' as const, name: view }, inputs: {}, fields: [field] };
  const counts = totals(
    from,
    'UTC',
    [
      { name: 'filled', calculation: { kind: 'count' } },
      { name: 'different', calculation: { kind: 'distinct', field: field.name } },
    ],
    { field: field.name, test: { op: 'filled' } },
  );
  try {
    const { records } = await runColumnar(await columnar(), compile(counts, duckdb), {
      doing: 'looking whether a value finds one record',
    });
    return records[0]?.[0] === records[0]?.[1];
  } catch {
    return false;
  }
}
