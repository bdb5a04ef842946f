import Big from 'big.js';
import type { PlannedMeasure } from '#core/ask/measure/calculation.ts';
import { mostNumbers } from '#core/plan/plan.ts';
import type { Field } from '#core/value/field/field.ts';
import type { Cell } from '#core/value/field/value.ts';
import type { Span } from '#core/value/period/period.ts';
import { differenceOf } from '../../difference.ts';
import { compareValues, hasBegun, partOf, unitsShown, withoutRecords } from '../../group-values.ts';
import type { CellWay, CrosstabPane, Level } from './schema.ts';
import { depthsOf } from './sets.ts';

/** A row or a column of a crosstab. */
export interface Line {
  /** The values of its levels, the outermost first; none is the total of all. */
  readonly values: readonly Cell[];
  /** Its first level is all that is not among the largest. */
  readonly isRest?: true;
  /** A unit of time that is not over yet, or that what is shown covers only in part. */
  readonly partial?: 'so far' | 'in part';
  /** How many lines of the next level belong to it. */
  readonly children: number;
}

export interface CrosstabData {
  /** Those that belong to one follow it; the total of all comes last. */
  readonly rows: readonly Line[];
  /** Those that belong to one stand before it, and the total of all after them. */
  readonly columns: readonly Line[];
  /** By row, then by column with its measures beside each other. Shares are ratios. */
  readonly cells: readonly (readonly Cell[])[];
  /** There are more numbers than are shown: the finer ones are left out. */
  readonly isCut: boolean;
}

/** What rows are put in order by: their heads, or a measure in a column. */
export interface RowOrder {
  /** A measure by its place; null: the heads. */
  readonly measure: number | null;
  readonly descending: boolean;
  /** The values of the column; none: the totals. */
  readonly along: readonly Cell[];
}

interface Side {
  readonly levels: readonly Level[];
  readonly fields: readonly Field[];
  /** The period of the level's field that is shown, where it has a unit and one is chosen. */
  readonly spans: readonly (Span | null)[];
}

export interface ShapeContext {
  readonly down: Side;
  readonly across: Side;
  readonly measures: readonly PlannedMeasure[];
  readonly order: RowOrder;
  readonly zone: string;
  readonly now: Date;
}

interface Node {
  readonly values: readonly Cell[];
  readonly isRest: boolean;
  readonly children: Map<string, Node>;
}

const newNode = (values: readonly Cell[], isRest: boolean): Node => ({ values, isRest, children: new Map() });
const keyOf = (values: readonly Cell[], isRest: boolean): string => JSON.stringify([isRest, ...values]);

/** Puts a line into its tree, with the lines that it belongs to. */
function place(tree: Node, values: readonly Cell[], isRest: boolean): void {
  let node = tree;
  for (let depth = 1; depth <= values.length; depth += 1) {
    const path = values.slice(0, depth);
    const key = keyOf(path, isRest);
    const next = node.children.get(key) ?? newNode(path, isRest);
    node.children.set(key, next);
    node = next;
  }
}

/** Lays the answer to a plan with sets out as rows and columns. Numbers are as the engine gave them. */
export function shapeCrosstab(
  pane: CrosstabPane,
  records: readonly (readonly Cell[])[],
  { down, across, measures, order, zone, now }: ShapeContext,
): CrosstabData {
  const isCut = records.length > mostNumbers;
  const depths = depthsOf(down.levels.length, across.levels.length);
  const lead = pane.top ? 2 : 1;
  const firstCut = isCut ? Number(records[mostNumbers]?.[0]) : depths.length;
  // Of what could not be asked for whole only heads are of use: a number that is missing must never look like none.
  const kept = records.slice(0, mostNumbers).filter((record) => {
    const set = Number(record[0]);
    const depth = depths[set];
    return set < firstCut || depth?.down === 0 || depth?.across === 0;
  });
  const rowTree = newNode([], false);
  const columnTree = newNode([], false);
  const numbers = new Map<string, readonly Cell[]>();
  const numberKey = (row: string, column: string): string => `${row}\n${column}`;
  for (const record of kept) {
    const depth = depths[Number(record[0])];
    if (!depth) continue;
    const values = record.slice(lead, lead + depth.down);
    const isRest = pane.top !== undefined && depth.down > 0 && record[1] === true;
    const path = record.slice(lead + down.levels.length, lead + down.levels.length + depth.across);
    if (!isRest || pane.top?.rest) place(rowTree, values, isRest);
    place(columnTree, path, false);
    numbers.set(
      numberKey(keyOf(values, isRest), keyOf(path, false)),
      record.slice(lead + down.levels.length + across.levels.length),
    );
  }
  if (kept.length > 0)
    for (const [tree, side] of [
      [rowTree, down],
      [columnTree, across],
    ] as const)
      for (const start of unitsWithout(tree, side, zone, now)) place(tree, [start], false);
  const numberAt = (row: Node, column: Node, measure: number): Cell =>
    numbers.get(numberKey(keyOf(row.values, row.isRest), keyOf(column.values, false)))?.[measure] ?? null;
  const along = newNode(order.along, false);
  const ordered = (nodes: Iterable<Node>, side: Side, isDown: boolean): Node[] => {
    const byHead = (one: Node, other: Node): number => {
      const depth = one.values.length - 1;
      return compareValues(one.values[depth], other.values[depth], side.fields[depth]?.states);
    };
    const { measure, descending } = order;
    const sign = descending ? -1 : 1;
    return [...nodes].sort((one, other) => {
      if (one.isRest !== other.isRest) return one.isRest ? 1 : -1;
      if (!isDown) return byHead(one, other);
      // Blanks come last both ways.
      const isBlank = (node: Node): boolean => node.values.at(-1) === null;
      if (measure === null)
        return isBlank(one) || isBlank(other) ? byHead(one, other) : sign * byHead(one, other);
      return (
        compareNumbers(numberAt(one, along, measure), numberAt(other, along, measure), sign) ||
        byHead(one, other)
      );
    });
  };
  const lineOf = (node: Node, side: Side): Line => {
    const depth = node.values.length - 1;
    const unit = side.levels[depth]?.unit;
    const partial = unit
      ? partOf(node.values[depth] ?? null, unit, { span: side.spans[depth] ?? null, now, zone })
      : null;
    return {
      values: node.values,
      children: node.children.size,
      ...(node.isRest ? { isRest: true as const } : {}),
      ...(partial ? { partial } : {}),
    };
  };
  const listed = (node: Node, side: Side, isDown: boolean): Node[] => {
    const below = ordered(node.children.values(), side, isDown).flatMap((each) => listed(each, side, isDown));
    return isDown && node.values.length > 0 ? [node, ...below] : [...below, node];
  };
  const rows = listed(rowTree, down, true);
  const columns = listed(columnTree, across, false);
  const whole = (row: Node, column: Node): Cell[] =>
    measures.map((measure, at) => {
      const key = numberKey(keyOf(row.values, row.isRest), keyOf(column.values, false));
      return numbers.has(key) ? (numbers.get(key)?.[at] ?? null) : isCut ? null : withoutRecords(measure);
    });
  const written = cellsOf(pane.cells, whole, rowTree, columnTree, columns);
  return {
    rows: rows.map((node) => lineOf(node, down)),
    columns: columns.map((node) => lineOf(node, across)),
    cells: records.length === 0 ? [] : rows.map((row) => columns.flatMap((column) => written(row, column))),
    isCut,
  };
}

/** This many units of time that have no records stand between those that have some. */
const mostUnits = 200;

/** The units of time on the outermost level of a side that have no records, but lie between those that have, or in the period that is shown; none of those that have not begun. */
function unitsWithout({ children }: Node, { levels, spans }: Side, zone: string, now: Date): string[] {
  const unit = levels[0]?.unit;
  if (!unit || children.size === 0) return [];
  const known = [...children.values()].map(({ values }) => values[0]);
  return unitsShown(known, unit, { span: spans[0] ?? null, zone, most: mostUnits }).filter(
    (start) => !known.includes(start) && hasBegun(start, unit, { now, zone }),
  );
}

/** Blanks come last both ways. */
function compareNumbers(one: Cell, other: Cell, sign: 1 | -1): number {
  if (one === null || other === null) return Number(one === null) - Number(other === null);
  const [a, b] = [numberOf(one), numberOf(other)];
  if (a && b) return sign * a.cmp(b);
  return sign * String(one).localeCompare(String(other), 'en', { numeric: true });
}

/** An exact number; null of what is none, such as a moment. */
function numberOf(cell: Cell): Big | null {
  try {
    return new Big(String(cell));
  } catch {
    return null;
  }
}

/** Places behind the point of a ratio. */
const ratioPlaces = 12;

function ratio(of: Cell, to: Cell): Cell {
  const [a, b] = [numberOf(of), numberOf(to)];
  if (!a || !b || b.eq(0)) return null;
  const whole = a.times(new Big(10).pow(ratioPlaces)).div(b).round(0, Big.roundHalfUp);
  return whole.div(new Big(10).pow(ratioPlaces)).toFixed();
}

/** What stands in the cells, of the numbers there are. */
function cellsOf(
  way: CellWay,
  whole: (row: Node, column: Node) => Cell[],
  allRows: Node,
  allColumns: Node,
  columns: readonly Node[],
): (row: Node, column: Node) => Cell[] {
  const against =
    (base: (row: Node, column: Node) => [Node, Node]) =>
    (row: Node, column: Node): Cell[] => {
      const to = whole(...base(row, column));
      return whole(row, column).map((cell, at) => ratio(cell, to[at] ?? null));
    };
  switch (way) {
    case 'value':
      return whole;
    case 'row share':
      return against((row) => [row, allColumns]);
    case 'column share':
      return against((_, column) => [allRows, column]);
    case 'whole share':
      return against(() => [allRows, allColumns]);
    case 'difference': {
      // Of the column before it on the same level, among those that belong together.
      const before = new Map<Node, Node>();
      const latest = new Map<string, Node>();
      for (const column of columns) {
        const together = keyOf(column.values.slice(0, -1), false);
        const previous = latest.get(together);
        if (column.values.length > 0 && previous) before.set(column, previous);
        if (column.values.length > 0) latest.set(together, column);
      }
      return (row, column) => {
        const previous = before.get(column);
        const first = previous ? whole(row, previous) : [];
        return whole(row, column).map((cell, at) => differenceOf(cell, first[at])?.by ?? null);
      };
    }
  }
}
