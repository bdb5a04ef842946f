import type { Table } from '@tanstack/react-table';
import ArrowDown from 'lucide-react/icons/arrow-down';
import ArrowUp from 'lucide-react/icons/arrow-up';
import { Fragment, useLayoutEffect, useMemo, useRef } from 'react';
import type { FootAnswer } from '#core/dashboard/pane/kinds/table/foot.ts';
import type { ListOrder } from '#core/dashboard/pane/list-view.ts';
import type { Format } from '#core/value/field/format.ts';
import { alignedFormat, type ReadBy } from '#core/value/format/format.ts';
import { isFigure } from '../../ui/cell.tsx';
import { FootRow, heldAt } from './foot.tsx';
import { type Grouping, GroupRow, headsBefore } from './group-row.tsx';
import { type CellEditor, fieldOf, type Marking, RecordRow, type Row, type RowPaste } from './record-row.tsx';

interface Props {
  readonly table: Table<Row>;
  readonly label: string;
  readonly clock: ReadBy;
  readonly order: ListOrder;
  readonly onSort?: (field: string, add: boolean) => void;
  readonly isPicked: (row: Row) => boolean;
  readonly onPick: (row: Row) => void;
  readonly onOpen: (row: Row) => void;
  /** Puts a column at another place, from 0. */
  readonly onMove?: (field: string, to: number) => void;
  /** How many of the first columns stay in view while the others move sideways. */
  readonly held?: number;
  readonly foot?: Partial<FootAnswer>;
  /** Records stand together under heads. */
  readonly grouping?: Grouping | null;
  /** Records can be marked, to act on them. */
  readonly marking?: Marking | null;
  readonly editor?: CellEditor | undefined;
  readonly onPaste?: RowPaste | undefined;
}

/**
 * The one table of records. Headers sort (with Shift: as well), and are dragged to another place; edges resize. On a header
 * Shift with the arrows resizes too, with Ctrl it moves. Arrows move through the records, Space picks one, Enter opens it.
 */
export function Grid({
  table,
  label,
  clock,
  order,
  onSort,
  isPicked,
  onPick,
  onOpen,
  onMove,
  held = 0,
  foot = noFoot,
  grouping = null,
  marking = null,
  editor,
  onPaste,
}: Props) {
  const body = useRef<HTMLTableSectionElement>(null);
  const move = (from: HTMLElement, by: number): void => {
    const rows = [...(body.current?.rows ?? [])].filter((row) => !('groupHead' in row.dataset));
    rows[rows.indexOf(from as HTMLTableRowElement) + by]?.focus();
  };
  const rows = table.getRowModel().rows;
  const paths = rows.map((row) => grouping?.pathOf(row.original) ?? []);
  const isInView = (at: number): boolean => {
    const path = paths[at] ?? [];
    return !grouping || !(grouping.isHidden(path) || grouping.isClosed(path));
  };
  const inView = rows.filter((_, at) => isInView(at));
  const frame = useRef<HTMLDivElement>(null);
  // Whole records are in view, so that one which is cut in half never passes for the last.
  // biome-ignore lint/correctness/useExhaustiveDependencies: how much room there is depends on what is shown
  useLayoutEffect(() => {
    const place = frame.current;
    const head =
      (place?.querySelector('thead')?.offsetHeight ?? 0) + (place?.querySelector('tfoot')?.offsetHeight ?? 0);
    const heights = [...(body.current?.rows ?? [])].map((row) => row.offsetHeight);
    const [first = 0] = heights;
    if (!place || first === 0) return;
    place.style.maxHeight = '';
    const bars = place.offsetHeight - place.clientHeight;
    const room = place.clientHeight - head;
    if (room >= place.scrollHeight - head) return;
    let whole = 0;
    for (const height of heights) {
      if (whole + height > room) break;
      whole += height;
    }
    place.style.maxHeight = `${head + Math.max(first, whole) + bars}px`;
  }, [rows, foot, inView.length]);
  // Points stand under each other: the numbers of a column have as many decimals as the one that needs most.
  const formats = useMemo(
    () =>
      new Map(
        table.getAllColumns().flatMap((column): [string, Format][] => {
          const field = fieldOf(column.columnDef.meta);
          const format = alignedFormat(field, () =>
            rows.flatMap((row) => {
              const cell = row.getValue(column.id);
              return cell === null || cell === undefined ? [] : [String(cell)];
            }),
          );
          return format ? [[column.id, format]] : [];
        }),
      ),
    [table, rows],
  );
  // Where each of the columns that are held begins, as they are laid out.
  // biome-ignore lint/correctness/useExhaustiveDependencies: widths depend on what is shown
  useLayoutEffect(() => {
    const place = frame.current;
    let left = 0;
    for (const [at, head] of [...(place?.querySelectorAll('th') ?? [])].slice(0, held).entries()) {
      place?.style.setProperty(`--held-${at}`, `${left}px`);
      left += head.offsetWidth;
    }
  }, [held, rows, table.getState().columnSizing]);
  // A column that keys have moved keeps the keyboard.
  const moved = useRef<string | null>(null);
  const inOrder = table
    .getAllLeafColumns()
    .map(({ id }) => id)
    .join('\n');
  // biome-ignore lint/correctness/useExhaustiveDependencies: when the columns stand in another order
  useLayoutEffect(() => {
    if (moved.current === null) return;
    frame.current
      ?.querySelector<HTMLElement>(`th[data-column="${CSS.escape(moved.current)}"] button`)
      ?.focus();
    moved.current = null;
  }, [inOrder]);
  const start = inView.find((row) => isPicked(row.original))?.id ?? inView[0]?.id;
  const fields = table.getAllLeafColumns().map(({ columnDef }) => fieldOf(columnDef.meta));
  return (
    <div ref={frame} className="min-h-0 flex-initial overflow-auto" data-table-scroll>
      <table
        className="w-full border-collapse text-left"
        aria-label={label}
        style={{ minWidth: table.getTotalSize() }}
      >
        <thead className="sticky top-0 z-10 ground">
          {table.getHeaderGroups().map((group) => (
            <tr key={group.id}>
              {marking && (
                <td className="no-print w-7 border-b border-line px-1.5">
                  <input
                    type="checkbox"
                    aria-label="Mark those of this page"
                    className="size-4 align-middle accent-[var(--accent)]"
                    checked={marking.isPageMarked}
                    onChange={() => marking.togglePage()}
                  />
                </td>
              )}
              {group.headers.map((header) => {
                const field = fieldOf(header.column.columnDef.meta);
                const at = order.findIndex(({ by }) => by === header.id);
                const sorted = order[at];
                const Arrow = sorted?.descending ? ArrowDown : ArrowUp;
                return (
                  <th
                    key={header.id}
                    scope="col"
                    data-column={header.id}
                    style={{ width: header.getSize(), ...heldAt(header.index, held) }}
                    draggable={onMove !== undefined}
                    onDragStart={(event) => {
                      if (header.column.getIsResizing()) event.preventDefault();
                      else event.dataTransfer.setData(columnData, header.id);
                    }}
                    onDragOver={(event) => {
                      if (event.dataTransfer.types.includes(columnData)) event.preventDefault();
                    }}
                    onDrop={(event) => {
                      const moved = event.dataTransfer.getData(columnData);
                      if (moved === '' || moved === header.id) return;
                      event.preventDefault();
                      onMove?.(moved, header.index);
                    }}
                    aria-sort={at === 0 ? (sorted?.descending ? 'descending' : 'ascending') : undefined}
                    className={`group/th relative border-b border-line px-1.5 py-1 text-small whitespace-nowrap text-slate ${header.index < held ? 'held z-20' : ''}`}
                  >
                    <button
                      type="button"
                      disabled={!onSort}
                      title={field.description}
                      onClick={(event) => onSort?.(header.id, event.shiftKey)}
                      onKeyDown={(event) => {
                        if (!event.shiftKey || (event.key !== 'ArrowLeft' && event.key !== 'ArrowRight'))
                          return;
                        event.preventDefault();
                        const step = event.key === 'ArrowRight' ? 1 : -1;
                        if (event.ctrlKey) {
                          const to = header.index + step;
                          if (to < 0 || to >= group.headers.length || !onMove) return;
                          moved.current = header.id;
                          onMove(header.id, to);
                          return;
                        }
                        const size = header.getSize() + step * widened;
                        table.setColumnSizing((sizes) => ({
                          ...sizes,
                          [header.id]: Math.max(header.column.columnDef.minSize ?? 0, size),
                        }));
                      }}
                      className={`flex min-h-6 w-full items-center gap-1 ${isFigure(field) ? 'justify-end' : ''} hover:text-accent disabled:hover:text-slate`}
                    >
                      {field.label}
                      {field.unit && <span className="font-normal text-muted">{field.unit}</span>}
                      {sorted && <Arrow className="size-3 text-accent" aria-hidden="true" />}
                      {sorted && order.length > 1 && <sub className="text-muted">{at + 1}</sub>}
                    </button>
                    <span
                      aria-hidden="true"
                      onMouseDown={header.getResizeHandler()}
                      onTouchStart={header.getResizeHandler()}
                      className="absolute top-1 right-0 bottom-1 w-1.5 cursor-col-resize touch-none border-r border-transparent group-hover/th:border-line"
                    />
                  </th>
                );
              })}
            </tr>
          ))}
        </thead>
        <tbody ref={body}>
          {rows.map((row, at) => {
            const heads = grouping ? headsBefore(grouping, paths[at] ?? [], paths[at - 1] ?? null) : [];
            return (
              <Fragment key={row.id}>
                {grouping &&
                  heads.map((path) => (
                    <GroupRow
                      key={path.length}
                      path={path}
                      grouping={grouping}
                      fields={fields}
                      before={marking ? 1 : 0}
                      clock={clock}
                    />
                  ))}
                {isInView(at) && (
                  <RecordRow
                    row={row}
                    isStart={row.id === start}
                    isPicked={isPicked(row.original)}
                    formats={formats}
                    spans={foot.spans}
                    held={held}
                    clock={clock}
                    marking={marking}
                    editor={editor}
                    onMove={move}
                    onPick={onPick}
                    onOpen={onOpen}
                    onPaste={onPaste}
                  />
                )}
              </Fragment>
            );
          })}
        </tbody>
        <FootRow
          fields={fields}
          sizes={table.getAllLeafColumns().map((column) => column.getSize())}
          foot={foot}
          held={held}
          clock={clock}
          before={marking ? 1 : 0}
        />
      </table>
    </div>
  );
}

const noFoot: Partial<FootAnswer> = {};

/** What is dragged, as a browser tells it from other things. */
const columnData = 'application/x-column';

/** How many pixels a key makes a column wider. */
const widened = 16;
