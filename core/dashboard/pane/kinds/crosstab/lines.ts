import type { Line } from './shape.ts';

/* Which lines of a crosstab are in view: all but those that belong to a closed one. */

export type Side = 'down' | 'across';

/** A line by its values, as the view has it where it is turned from what lines are at first. */
export const nameOf = (side: Side, { values, isRest }: Line): string =>
  JSON.stringify([side, isRest ?? false, ...values]);

/** Says of all lines of a side that they are closed at first. */
const allOf = (side: Side): string => JSON.stringify([side]);

export const isOpen = (side: Side, line: Line, turned: ReadonlySet<string>): boolean =>
  turned.has(allOf(side)) === turned.has(nameOf(side, line));

/** The turned lines after one of them was opened or closed. */
export function withTurned(turned: ReadonlySet<string>, side: Side, line: Line): string[] {
  const next = new Set(turned);
  const name = nameOf(side, line);
  if (!next.delete(name)) next.add(name);
  return [...next];
}

/** The turned lines after all of a side were opened or closed. */
export function withAll(turned: ReadonlySet<string>, side: Side, open: boolean): string[] {
  const others = [...turned].filter((name) => (JSON.parse(name) as unknown[])[0] !== side);
  return open ? others : [...others, allOf(side)];
}

/** A line of the data and where it stands in it. */
export interface Placed {
  readonly line: Line;
  /** Its row or column in the cells. */
  readonly at: number;
}

/** The lines in view, in their order. */
export function linesInView(side: Side, lines: readonly Line[], turned: ReadonlySet<string>): Placed[] {
  const closed = new Set(
    lines
      .filter((line) => line.children > 0 && line.values.length > 0 && !isOpen(side, line, turned))
      .map(pathOf),
  );
  return lines.flatMap((line, at) => {
    const isUnder = line.values.some(
      (_, depth) => depth > 0 && closed.has(pathOf({ ...line, values: line.values.slice(0, depth) })),
    );
    return isUnder ? [] : [{ line, at }];
  });
}

const pathOf = ({ values, isRest }: Pick<Line, 'values' | 'isRest'>): string =>
  JSON.stringify([isRest ?? false, ...values]);
