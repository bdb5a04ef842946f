import { useVirtualizer } from '@tanstack/react-virtual';
import { type RefObject, useEffect, useMemo } from 'react';
import { lineWords, valueWords } from '#core/dashboard/pane/kinds/crosstab/head-words.ts';
import type { CrosstabBody } from '#core/dashboard/pane/kinds/crosstab/kind.ts';
import type { Placed } from '#core/dashboard/pane/kinds/crosstab/lines.ts';
import type { ShownMeasure } from '#core/dashboard/pane/shown.ts';
import type { Cell } from '#core/value/field/value.ts';
import { formatCell, type ReadBy } from '#core/value/format/format.ts';

/** Where a row has more numbers than this, only those in sight are drawn. */
const mostDrawn = 60;
/** Columns drawn beyond those in sight. */
const overscan = 4;

/** Pixels: of a figure, of a letter of a head, and of the room around them. */
const [figure, letter, room] = [9, 8, 30];
const [leastHead, mostHead, perDepth] = [120, 288, 20];

/** Pixels of what stands in fixed places, since it is not all drawn. */
export interface FixedWidths {
  readonly head: number;
  /** Of each number of a row, by its place among all. */
  readonly cells: readonly number[];
}

export interface ColumnsInView {
  /** The columns that are drawn, and which of all the first of them is. */
  readonly columns: readonly Placed[];
  readonly from: number;
  /** The room of those before and after, pixels. */
  readonly before: number;
  readonly after: number;
  /** Null: each column is as wide as what stands in it. */
  readonly widths: FixedWidths | null;
  /** Brings a column into sight. */
  readonly show: (column: number) => void;
}

/** The columns of a crosstab that are drawn: all of a few, and of many those in sight. */
export function useColumnsInView(
  frame: RefObject<HTMLElement | null>,
  all: { readonly rows: readonly Placed[]; readonly columns: readonly Placed[] },
  { body, formats, clock }: { body: CrosstabBody; formats: readonly ShownMeasure[]; clock: ReadBy },
  isWhole: boolean,
): ColumnsInView {
  const { rows, columns } = all;
  const perColumn = body.measures.length;
  const isWide = !isWhole && columns.length * perColumn > mostDrawn;
  const widths = useMemo(
    () => (isWide ? widthsOf({ rows, columns }, { body, formats, clock }) : null),
    [isWide, rows, columns, body, formats, clock],
  );
  const virtual = useVirtualizer({
    horizontal: true,
    enabled: isWide,
    count: columns.length,
    getScrollElement: () => frame.current,
    estimateSize: (column) => sumOf(widths?.cells.slice(column * perColumn, (column + 1) * perColumn) ?? []),
    overscan,
    // The heads of the rows stay in sight, over what is scrolled.
    scrollPaddingStart: widths?.head ?? 0,
    // Before the place is measured, as when the server draws it.
    initialRect: { width: 1000, height: 480 },
  });
  // biome-ignore lint/correctness/useExhaustiveDependencies: what is measured again is measured by the widths
  useEffect(() => virtual.measure(), [widths, virtual]);
  const show = (column: number): void => {
    if (isWide) virtual.scrollToIndex(column);
  };
  if (!isWide) return { columns, from: 0, before: 0, after: 0, widths: null, show };
  const items = virtual.getVirtualItems();
  const [first, last] = [items[0], items.at(-1)];
  return {
    columns: columns.slice(first?.index ?? 0, (last?.index ?? -1) + 1),
    from: first?.index ?? 0,
    before: first?.start ?? 0,
    after: virtual.getTotalSize() - (last?.end ?? 0),
    widths,
    show,
  };
}

const sumOf = (numbers: readonly number[]): number => numbers.reduce((sum, each) => sum + each, 0);

/** As wide as the longest that stands in each, without writing all of it: a number is longest where it is greatest or least. */
function widthsOf(
  { rows, columns }: { readonly rows: readonly Placed[]; readonly columns: readonly Placed[] },
  { body, formats, clock }: { body: CrosstabBody; formats: readonly ShownMeasure[]; clock: ReadBy },
): FixedWidths {
  const { data, down, across, measures } = body;
  const headOf = ({ line }: Placed): number =>
    lineWords(line, down, clock).length * letter + line.values.length * perDepth + room;
  const cells = columns.flatMap(({ line, at }) => {
    const depth = line.values.length;
    const words = depth === 0 ? '' : valueWords(line.values[depth - 1], across[depth - 1], clock);
    return measures.map((measure, which) => {
      const longest = longestOf(
        rows.map((row) => data.cells[row.at]?.[at * measures.length + which] ?? null),
        (value) => formatCell(value, formats[which] ?? measure, clock),
      );
      const label = measures.length > 1 ? `${measure.label} ${measure.unit ?? ''}` : words;
      return Math.max(longest * figure, label.length * letter, 24) + room;
    });
  });
  return { head: Math.min(mostHead, Math.max(leastHead, ...rows.map(headOf))), cells };
}

/** How many characters the longest of some values has as it is written. */
function longestOf(values: readonly Cell[], written: (value: Cell) => string): number {
  let [greatest, least]: [Cell, Cell] = [null, null];
  let longestText: Cell = null;
  for (const value of values) {
    if (value === null) continue;
    const number = Number(value);
    if (Number.isNaN(number)) {
      if (String(value).length > String(longestText ?? '').length) longestText = value;
    } else {
      if (greatest === null || number > Number(greatest)) greatest = value;
      if (least === null || number < Number(least)) least = value;
    }
  }
  return Math.max(...[greatest, least, longestText].map((value) => written(value).length));
}
