/*
 * The sets of groups of a crosstab: each depth down with each depth across, so that every total and subtotal is one of
 * them. Groups are the levels down, then those across.
 */

export interface SetDepth {
  readonly down: number;
  readonly across: number;
}

/** Every depth down with every depth across, coarse before fine. */
export const depthsOf = (down: number, across: number): SetDepth[] =>
  Array.from({ length: down + 1 }, (_, d) => d)
    .flatMap((d) => Array.from({ length: across + 1 }, (_, a) => ({ down: d, across: a })))
    .sort((one, other) => one.down + one.across - (other.down + other.across));

const upTo = (count: number, from: number): number[] => Array.from({ length: count }, (_, at) => from + at);

/** The indices of the groups that stand at a depth, where this many levels stand down. */
export const groupsAt = ({ down, across }: SetDepth, levelsDown: number): number[] => [
  ...upTo(down, 0),
  ...upTo(across, levelsDown),
];
