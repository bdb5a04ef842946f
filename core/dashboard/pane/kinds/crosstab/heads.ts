import type { Placed } from './lines.ts';

/* The heads over the columns of a crosstab: a row for each level, where what belongs together has one head. */

export interface ColumnHead {
  /** The first of its columns in view. */
  readonly from: number;
  /** How many columns it stands over, and how many rows it takes. */
  readonly columns: number;
  readonly rows: number;
  /** The depth of the value that it names; null: it is a total. */
  readonly depth: number | null;
}

/** The heads of each of this many levels, over the columns in view. */
export function headsOf(columns: readonly Placed[], levels: number): ColumnHead[][] {
  return Array.from({ length: levels }, (_, at) => {
    const level = at + 1;
    const heads: ColumnHead[] = [];
    let key: string | null = null;
    for (const [from, { line }] of columns.entries()) {
      const depth = line.values.length;
      if (depth >= level) {
        const next = JSON.stringify(line.values.slice(0, level));
        const last = heads.at(-1);
        if (key === next && last) heads[heads.length - 1] = { ...last, columns: last.columns + 1 };
        else heads.push({ from, columns: 1, rows: 1, depth: level });
        key = next;
      } else {
        // What ends above this level takes all rows below its own.
        if (depth === level - 1) heads.push({ from, columns: 1, rows: levels - depth, depth: null });
        key = null;
      }
    }
    return heads;
  });
}
