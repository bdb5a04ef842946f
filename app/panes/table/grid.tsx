import type { Table } from '@tanstack/react-table';
import { Fragment, useLayoutEffect, useMemo, useRef } from 'react';
import type { FootAnswer } from '#core/dashboard/pane/kinds/table/foot.ts';
import type { ListOrder } from '#core/dashboard/pane/list-view.ts';
import type { Format } from '#core/value/field/format.ts';
import { alignedFormat, type ReadBy } from '#core/value/format/format.ts';
import { FootRow } from './foot.tsx';
import { type Grouping, GroupRow, headsBefore } from './group-row.tsx';
import { Heads } from './heads.tsx';
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

/** The one table of records. Arrows move through the records and up to the heads, Space picks one, Enter opens it. */
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
    const to = rows.indexOf(from as HTMLTableRowElement) + by;
    if (to < 0) frame.current?.querySelector<HTMLElement>('thead [tabindex="0"]')?.focus();
    else rows[to]?.focus();
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
  const start = inView.find((row) => isPicked(row.original))?.id ?? inView[0]?.id;
  const fields = table.getAllLeafColumns().map(({ columnDef }) => fieldOf(columnDef.meta));
  return (
    <div ref={frame} className="min-h-0 flex-initial overflow-auto" data-table-scroll>
      <table
        className="w-full border-collapse text-left"
        aria-label={label}
        style={{ minWidth: table.getTotalSize() }}
      >
        <Heads
          table={table}
          order={order}
          onSort={onSort}
          onMove={onMove}
          held={held}
          marking={marking}
          onLeave={() => body.current?.querySelector<HTMLElement>('tr[tabindex="0"]')?.focus()}
        />
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
