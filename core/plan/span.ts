import { type Filter, partsOf } from '#core/ask/condition/resolve.ts';

/** The least and greatest instant of some, as ISO 8601. */
export interface InstantSpan {
  readonly least: string;
  readonly greatest: string;
}

/** The bounds of a field that every record has to keep to which passes a filter. */
const boundsOf = (where: Filter, field: string): { from: string | null; to: string | null }[] =>
  partsOf(where).flatMap((part) =>
    'field' in part && part.field === field && part.test.op === 'within' ? [part.test] : [],
  );

/** Null: none of them is a moment, or not all of them are. */
function outermost(moments: readonly (string | null | undefined)[], pick: (...all: number[]) => number) {
  const found = moments.flatMap((moment) => moment ?? []).map((moment) => Date.parse(moment));
  const at = pick(...found);
  return found.length > 0 && Math.abs(at) <= 8.64e15 ? new Date(at).toISOString() : null;
}

/** Between which instants those of a field are where a filter is passed, as far as that and what was known say; undefined where they do not. */
export function spanWithin(where: Filter, field: string, known?: InstantSpan): InstantSpan | undefined {
  const bounds = boundsOf(where, field);
  const least = outermost([known?.least, ...bounds.map(({ from }) => from)], Math.max);
  const greatest = outermost([known?.greatest, ...bounds.map(({ to }) => to)], Math.min);
  return least !== null && greatest !== null ? { least, greatest } : undefined;
}
