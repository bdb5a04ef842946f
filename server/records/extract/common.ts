import { isDeepStrictEqual } from 'node:util';
import { type Filter, type FilterTest, partsOf } from '#core/ask/condition/resolve.ts';
import { allOf } from '#core/plan/plan.ts';

/* What several filters have in common, and which of them lies within another. */

type Bounds = Extract<FilterTest, { op: 'within' }>;
/** The records whose field has a value from one on and before another; null where that side is open. */
type Stretch = { readonly field: string; readonly test: Bounds };

const isStretch = (part: Filter): part is Stretch => 'field' in part && part.test.op === 'within';

/** Those of a filter's conditions that are stretches, as a filter. */
export const stretchesOf = (filter: Filter): Filter => allOf(partsOf(filter).filter(isStretch));

/** Its other conditions, as a filter. */
export const notStretches = (filter: Filter): Filter =>
  allOf(partsOf(filter).filter((part) => !isStretch(part)));

/** The first bounds that a filter sets on a field. */
const boundsIn = (parts: readonly Filter[], field: string): Bounds | null =>
  parts.filter(isStretch).find((part) => part.field === field)?.test ?? null;

/** Null: the bound is open, or has a year that does not sort as text. */
const sortable = (bound: string | null): string | null =>
  bound !== null && /^\d{4}-/.test(bound) ? bound : null;

/** The first or the last of several bounds; null where one is open, or does not sort. */
function outermost(bounds: readonly (string | null)[], which: 'first' | 'last'): string | null {
  const sorted = bounds.flatMap((bound) => sortable(bound) ?? []).sort();
  if (sorted.length < bounds.length) return null;
  return sorted.at(which === 'first' ? 0 : -1) ?? null;
}

/** A filter that every record passes which passes any of these: the conditions that all of them have, and the bounds around theirs. */
export function commonFilter(filters: readonly Filter[]): Filter {
  const [first = [], ...others] = filters.map(partsOf);
  return allOf(
    first.flatMap((part): Filter[] => {
      if (others.every((parts) => parts.some((other) => isDeepStrictEqual(other, part)))) return [part];
      if (!isStretch(part)) return [];
      const { field } = part;
      const bounds = [first, ...others].flatMap((parts) => boundsIn(parts, field) ?? []);
      if (bounds.length <= others.length) return [];
      const from = outermost(
        bounds.map((each) => each.from),
        'first',
      );
      const to = outermost(
        bounds.map((each) => each.to),
        'last',
      );
      return from === null && to === null ? [] : [{ field, test: { op: 'within', from, to } }];
    }),
  );
}

function isWithin(inner: Bounds, outer: Bounds): boolean {
  const isOrdered = (earlier: string | null, later: string | null): boolean =>
    earlier !== null && later !== null && earlier <= later;
  return (
    (outer.from === null || isOrdered(sortable(outer.from), sortable(inner.from))) &&
    (outer.to === null || isOrdered(sortable(inner.to), sortable(outer.to)))
  );
}

/** Whether every record that passes `filter` is sure to pass `wider`. */
export function isPartOf(filter: Filter, wider: Filter): boolean {
  const parts = partsOf(filter);
  return partsOf(wider).every((outer) =>
    parts.some(
      (inner) =>
        isDeepStrictEqual(inner, outer) ||
        (isStretch(inner) &&
          isStretch(outer) &&
          inner.field === outer.field &&
          isWithin(inner.test, outer.test)),
    ),
  );
}
