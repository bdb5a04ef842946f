import { type Filter, withinSpan } from '#core/ask/condition/resolve.ts';
import type { PlannedMeasure } from '#core/ask/measure/calculation.ts';
import type { Field } from '#core/value/field/field.ts';
import type { Cell } from '#core/value/field/value.ts';
import { spanOfGroup } from '#core/value/period/period.ts';
import { allOf, type Group, type GroupsPlan, type RecordsPlan } from './plan.ts';

/** The filter that keeps exactly the records of one group: the cell's value, letter for letter, or its period. */
export function groupFilter(group: Group, value: Cell, fields: readonly Field[], zone: string): Filter {
  const field = fields.find((each) => each.name === group.field);
  if (group.bins)
    return {
      field: group.field,
      test: { op: 'bin', bins: group.bins, value: value === null ? null : String(value) },
    };
  if (value === null) return { field: group.field, test: { op: 'blank' } };
  if (group.cycle)
    return { field: group.field, test: { op: 'cycle', cycle: group.cycle, value: String(value), zone } };
  if (!group.unit || !field) return { field: group.field, test: { op: 'same', value: String(value) } };
  return { field: group.field, test: withinSpan(field, spanOfGroup(String(value), group.unit, zone)) };
}

/**
 * The filter of the records a measure counts: its own condition, and for a share the records that meet it. An aggregate
 * over a field ignores blanks, so the records behind it are the ones with a value.
 */
export function measureFilter(measure: PlannedMeasure): Filter {
  const { calculation } = measure;
  const own = measure.where ?? null;
  switch (calculation.kind) {
    case 'count':
    case 'ratio':
      return allOf([own]);
    case 'share':
      return allOf([own, calculation.where]);
    default:
      return allOf([own, { field: calculation.field, test: { op: 'filled' } }]);
  }
}

/** What a cell of a result stands for: the values of its groups, or the rest behind the top ones. */
export interface CellGroups {
  readonly values: readonly Cell[];
  /** Of which groups the values are, by their indices; of the first ones where this is absent. */
  readonly of?: readonly number[] | undefined;
  /** With `top`: the cell is the rest, that is every record whose first group is none of these. */
  readonly restOf?: readonly Cell[];
}

/**
 * The records behind a number: the same plan with the cell's groups as conditions. Counting them, or computing the
 * measure over them, gives the number again (the property tests hold this against a real PostgreSQL).
 */
export function recordsBehind(
  plan: GroupsPlan,
  cell: CellGroups,
  measure: PlannedMeasure,
  page: Pick<RecordsPlan, 'fields' | 'order' | 'key' | 'offset' | 'limit'>,
): RecordsPlan {
  const { from, zone } = plan;
  const groups: Filter[] = plan.by.flatMap((group, index): Filter[] => {
    const value = cell.values[cell.of ? cell.of.indexOf(index) : index];
    if (index === 0 && cell.restOf)
      return [
        { none: cell.restOf.map((each) => groupFilter(group, each, from.fields, zone)) },
        { field: group.field, test: { op: 'filled' } },
      ];
    return value === undefined ? [] : [groupFilter(group, value, from.fields, zone)];
  });
  return {
    kind: 'records',
    from,
    zone,
    where: allOf([plan.where, ...groups, measureFilter(measure)]),
    ...page,
  };
}
