import { useVirtualizer } from '@tanstack/react-virtual';
import ChevronsDownUp from 'lucide-react/icons/chevrons-down-up';
import ChevronsUpDown from 'lucide-react/icons/chevrons-up-down';
import { type CSSProperties, type KeyboardEvent, useEffect, useMemo, useRef } from 'react';
import { lineWords, pathWords } from '#core/dashboard/pane/kinds/crosstab/head-words.ts';
import type { CrosstabBody } from '#core/dashboard/pane/kinds/crosstab/kind.ts';
import {
  isOpen,
  linesInView,
  nameOf,
  withAll,
  withTurned,
} from '#core/dashboard/pane/kinds/crosstab/lines.ts';
import { isOrderedBy, rowOrderParts } from '#core/dashboard/pane/kinds/crosstab/order.ts';
import type { CrosstabPane } from '#core/dashboard/pane/kinds/crosstab/schema.ts';
import type { Line } from '#core/dashboard/pane/kinds/crosstab/shape.ts';
import type { Cell } from '#core/value/field/value.ts';
import { alignedFormat } from '#core/value/format/format.ts';
import { IconButton } from '../../ui/button.tsx';
import { useLook } from '../../ui/look.ts';
import { usePrinting } from '../../ui/use-printing.ts';
import { DownloadTool } from '../download.tsx';
import { Empty } from '../empty.tsx';
import type { PaneViewProps, Part } from '../view.ts';
import { ColumnHeads } from './column-heads.tsx';
import { useColumnsInView } from './columns-in-view.ts';
import { CrosstabRow, type RowActions, rowHeights } from './row.tsx';

/** Rows drawn beyond those in sight. */
const overscan = 12;

/** Rows and columns with their totals. A head picks what it names; a number opens the records behind it. */
export function CrosstabView({
  pane,
  body,
  clock,
  view,
  isPicked,
  actions,
  fileOf,
}: PaneViewProps<CrosstabPane, CrosstabBody>) {
  const { data, down, across, measures, order } = body;
  const turned = useMemo(() => new Set(view.turned ?? []), [view.turned]);
  const rows = useMemo(() => linesInView('down', data.rows, turned), [data.rows, turned]);
  const columns = useMemo(() => linesInView('across', data.columns, turned), [data.columns, turned]);
  const formats = useMemo(() => formatsOf(body), [body]);
  const shades = useMemo(() => (pane.shaded ? shadesOf(body) : null), [pane.shaded, body]);
  const frame = useRef<HTMLDivElement>(null);
  const place = useRef({ row: 0, cell: 0 });
  const latest = useRef<RowActions | null>(null);
  const rowActions = useMemo(
    (): RowActions => ({
      turn: (line) => latest.current?.turn(line),
      pick: (line) => latest.current?.pick(line),
      open: (row, cell) => latest.current?.open(row, cell),
      focus: (row, cell) => latest.current?.focus(row, cell),
    }),
    [],
  );
  const isPrinting = usePrinting();
  const height = rowHeights[useLook().rows];
  const virtual = useVirtualizer({
    count: rows.length,
    getScrollElement: () => frame.current,
    estimateSize: () => height,
    overscan,
    // Before the place is measured, as when the server draws it.
    initialRect: { width: 0, height: 480 },
  });
  // biome-ignore lint/correctness/useExhaustiveDependencies: what is measured again is measured by the height
  useEffect(() => virtual.measure(), [height, virtual]);
  const inSight = useColumnsInView(frame, { rows, columns }, { body, formats, clock }, isPrinting);
  const { widths } = inSight;
  if (data.rows.length <= 1 || data.cells.length === 0)
    return <Empty noun={body.noun.many} loosen={body.loosen} onLoosen={actions.loosen} />;
  const turn = (side: 'down' | 'across', line: Line): void =>
    actions.look({ turned: withTurned(turned, side, line) });
  const openNumber = (row: Line, column: Line, measure: number): void => {
    const of = [...row.values.map((_, at) => at), ...column.values.map((_, at) => down.length + at)];
    const words = [pathWords(row, down, clock), pathWords(column, across, clock)].filter(Boolean);
    actions.open({
      kind: 'behind',
      title: words.join(', ') || 'all',
      values: [...row.values, ...column.values],
      of,
      measure,
      ...(row.isRest ? { restOf: topValues(data.rows) } : {}),
    });
  };
  const openAt = (row: number, cell: number): void => {
    const [placed, column] = [rows[row], columns[Math.floor(cell / measures.length)]];
    if (placed && column) openNumber(placed.line, column.line, cell % measures.length);
  };
  const partsOf = (line: Line): Part[] =>
    line.values.map((value, at) => ({
      dataSet: pane.dataSet,
      field: pane.down[at]?.field ?? '',
      ...(pane.down[at]?.unit ? { unit: pane.down[at].unit } : {}),
      value: value === null ? null : String(value),
    }));
  const pickRow = (line: Line): void => {
    // What comes round again is many stretches of time, of which none can be looked at alone.
    const isOfCycle = line.values.some((_, at) => pane.down[at]?.cycle);
    if (line.isRest || isOfCycle || line.values.length === 0)
      openNumber(line, { values: [], children: 0 }, 0);
    else actions.pick(partsOf(line));
  };
  latest.current = {
    turn: (line) => turn('down', line),
    pick: pickRow,
    open: openAt,
    focus: (row, cell) => {
      place.current = { row, cell };
    },
  };
  const cellCount = columns.length * measures.length;
  const focusAt = (row: number, cell: number): void => {
    const next = {
      row: Math.min(rows.length - 1, Math.max(0, row)),
      cell: Math.min(cellCount - 1, Math.max(0, cell)),
    };
    place.current = next;
    virtual.scrollToIndex(next.row);
    inSight.show(Math.floor(next.cell / measures.length));
    focusOnceDrawn(() =>
      place.current === next
        ? frame.current?.querySelector<HTMLElement>(`[data-row="${next.row}"] [data-cell="${next.cell}"]`)
        : undefined,
    );
  };
  const onKeyDown = (event: KeyboardEvent<HTMLElement>): void => {
    const target = event.target instanceof HTMLElement ? event.target : null;
    if (!target?.dataset.cell) return;
    const { row, cell } = place.current;
    const step = steps[event.key];
    if (step) focusAt(row + step[0], cell + step[1]);
    else if (event.key === 'Home') focusAt(row, 0);
    else if (event.key === 'End') focusAt(row, cellCount - 1);
    else if (event.key === 'Enter' || event.key === ' ') openAt(row, cell);
    else return;
    event.preventDefault();
  };
  const inView = virtual.getVirtualItems();
  const first = inView[0]?.index ?? 0;
  // On paper nothing scrolls: all rows are there.
  const items = isPrinting ? [...rows.keys()] : inView.map(({ index }) => index);
  const above = isPrinting ? 0 : (inView[0]?.start ?? 0);
  const below = isPrinting ? 0 : virtual.getTotalSize() - (inView.at(-1)?.end ?? 0);
  return (
    <div className="flex min-h-0 flex-1 flex-col gap-1">
      <div ref={frame} className="min-h-0 flex-initial overflow-auto" data-table-scroll>
        <table
          // biome-ignore lint/a11y/noNoninteractiveElementToInteractiveRole: a table whose cells are moved through is a grid (WAI-ARIA)
          role="grid"
          aria-label={pane.title}
          aria-rowcount={rows.length}
          aria-colcount={cellCount + 1}
          className={`border-separate border-spacing-0 text-left ${widths ? 'table-fixed' : ''}`}
          style={
            widths ? { width: widths.head + widths.cells.reduce((sum, each) => sum + each, 0) } : undefined
          }
          onKeyDown={onKeyDown}
        >
          {widths && (
            <colgroup>
              <col style={{ width: widths.head }} />
              <col style={{ width: inSight.before }} />
              {widths.cells
                .slice(inSight.from * measures.length)
                .slice(0, inSight.columns.length * measures.length)
                .map((width, at) => (
                  // biome-ignore lint/suspicious/noArrayIndexKey: a column of the page has no other identity
                  <col key={at} style={{ width }} />
                ))}
              <col style={{ width: inSight.after }} />
            </colgroup>
          )}
          <ColumnHeads
            body={body}
            columns={inSight.columns}
            rowHead={widths?.head ?? null}
            clock={clock}
            turned={turned}
            onTurn={(line) => turn('across', line)}
            onSort={(measure, along) =>
              actions.look(
                rowOrderParts({ measure, along, descending: nextDirection(order, measure, along) }),
              )
            }
          />
          <tbody>
            {above > 0 && <Gap height={above} />}
            {items.map((index) => {
              const placed = rows[index];
              if (!placed) return null;
              const { line } = placed;
              const parts = line.isRest ? [] : partsOf(line);
              return (
                <CrosstabRow
                  key={nameOf('down', line)}
                  index={index}
                  placed={placed}
                  words={lineWords(line, down, clock)}
                  isOpen={isOpen('down', line, turned)}
                  isPicked={parts.length > 0 && parts.every(isPicked)}
                  isEntry={index === first}
                  columns={inSight.columns}
                  from={inSight.from}
                  isFixed={widths !== null}
                  body={body}
                  formats={formats}
                  shades={shades}
                  clock={clock}
                  actions={rowActions}
                  height={height}
                />
              );
            })}
            {below > 0 && <Gap height={below} />}
          </tbody>
        </table>
      </div>
      <div className="tools no-print flex justify-end gap-0.5">
        {down.length > 1 && (
          <>
            <IconButton
              name="Close all rows"
              onClick={() => actions.look({ turned: withAll(turned, 'down', false) })}
            >
              <ChevronsDownUp className="size-4" />
            </IconButton>
            <IconButton
              name="Open all rows"
              onClick={() => actions.look({ turned: withAll(turned, 'down', true) })}
            >
              <ChevronsUpDown className="size-4" />
            </IconButton>
          </>
        )}
        <DownloadTool
          name={`Download ${pane.title}`}
          what={`All ${body.noun.many} of it`}
          hrefOf={fileOf}
          asItLooks="Its numbers"
        />
      </div>
      {data.isCut && (
        <p className="text-small text-slipping">
          There are too many numbers to show them all: the finer ones are left out. Narrow it with the reader
          filters, or show the top ones.
        </p>
      )}
    </div>
  );
}

const steps: Readonly<Record<string, readonly [row: number, cell: number]>> = {
  ArrowDown: [1, 0],
  ArrowUp: [-1, 0],
  ArrowRight: [0, 1],
  ArrowLeft: [0, -1],
  PageDown: [10, 0],
  PageUp: [-10, 0],
};

/** This many frames are waited for what is to be drawn. */
const mostFrames = 20;

/** Gives the focus to what may have to be drawn first; undefined: it is not wanted any more. */
function focusOnceDrawn(find: () => HTMLElement | null | undefined, frames = mostFrames): void {
  requestAnimationFrame(() => {
    const found = find();
    if (found) found.focus();
    else if (found === null && frames > 0) focusOnceDrawn(find, frames - 1);
  });
}

/** The room of rows that are out of sight. */
const Gap = ({ height }: { height: number }) => (
  // biome-ignore lint/a11y/noInteractiveElementToNoninteractiveRole: it is room, and no row
  <tr role="presentation">
    <td style={{ height }} />
  </tr>
);

const topValues = (rows: readonly Line[]) =>
  rows.flatMap(({ values, isRest }) =>
    values.length === 1 && !isRest && values[0] !== null ? [values[0] ?? null] : [],
  );

/** The same column again turns the order round; another begins with the highest, and heads as one reads them. */
function nextDirection(
  order: CrosstabBody['order'],
  measure: number | null,
  along: readonly Cell[],
): boolean {
  return isOrderedBy(order, measure, along) ? !order.descending : measure !== null;
}

/** How dark a cell is: the darker the higher its number stands between the least and the greatest of its measure. */
function shadesOf({ data, measures, down, across }: CrosstabBody) {
  const spans = measures.map((_, which) => {
    const numbers = data.rows.flatMap((row, at) =>
      row.values.length < down.length
        ? []
        : data.columns.flatMap((column, nth) => {
            const value = data.cells[at]?.[nth * measures.length + which];
            const isPart = column.values.length === across.length;
            return isPart && value !== null && Number.isFinite(Number(value)) ? [Number(value)] : [];
          }),
    );
    return { least: Math.min(...numbers), greatest: Math.max(...numbers) };
  });
  return (value: Cell | undefined, which: number): CSSProperties | undefined => {
    const span = spans[which];
    const number = Number(value);
    if (!span || value === null || value === undefined || !Number.isFinite(number)) return undefined;
    const part = span.greatest > span.least ? (number - span.least) / (span.greatest - span.least) : 1;
    return { backgroundColor: `color-mix(in srgb, var(--series-1) ${Math.round(part * 44)}%, transparent)` };
  };
}

/** Points stand under each other: the numbers of a measure have as many decimals as the one that needs most. */
function formatsOf({ data, measures }: CrosstabBody) {
  return measures.map((measure, which) => {
    const format = alignedFormat(measure, () =>
      data.cells
        .flatMap((row) =>
          row.flatMap((cell, at) => (at % measures.length === which && cell !== null ? [String(cell)] : [])),
        )
        .slice(0, mostAligned),
    );
    return format ? { ...measure, format } : measure;
  });
}

/** This many numbers tell how many decimals all of them need. */
const mostAligned = 2000;
