import type { Row as TableRow } from '@tanstack/react-table';
import type { ClipboardEvent, KeyboardEvent, ReactNode } from 'react';
import type { FootAnswer } from '#core/dashboard/pane/kinds/table/foot.ts';
import type { TableColumn } from '#core/dashboard/pane/kinds/table/schema.ts';
import type { ShownField } from '#core/dashboard/pane/shown.ts';
import type { Format } from '#core/value/field/format.ts';
import type { Cell } from '#core/value/field/value.ts';
import type { ReadBy } from '#core/value/format/format.ts';
import { bandLook } from '../../ui/band.ts';
import { CellView, isFigure } from '../../ui/cell.tsx';
import { Bar, heldAt } from './foot.tsx';

export type Row = readonly Cell[];

/** How records of a table are marked. */
export interface Marking {
  /** What a record is called; null for one that cannot be marked. */
  readonly nameOf: (row: Row) => string | null;
  readonly isMarked: (row: Row) => boolean;
  /** `to`: all from the last one marked. */
  readonly toggle: (row: Row, to: boolean) => void;
  readonly togglePage: () => void;
  readonly isPageMarked: boolean;
  /** Acts on those that are marked, or on this one where none is. */
  readonly act: (row: Row) => void;
}

/** What is known of a column: its field, and how the analyst has it shown. */
export interface ColumnMeta {
  readonly field: ShownField;
  readonly column: TableColumn;
}

const metaOf = (meta: unknown): ColumnMeta => meta as ColumnMeta;
export const fieldOf = (meta: unknown): ShownField => metaOf(meta).field;

/** A value that can be changed where it stands; null for one that cannot. */
export type CellEditor = (row: Row, field: ShownField, shown: ReactNode) => ReactNode | null;

/** Told of several cells that were pasted onto a record, or onto the cell of it that a field has. */
export type RowPaste = (row: Row, field: string | null, text: string) => void;

/** A record of the table, with what keys and clicks do to it. */
export function RecordRow({
  row,
  isStart,
  isPicked,
  formats,
  spans,
  held,
  clock,
  marking,
  editor,
  onMove,
  onPick,
  onOpen,
  onPaste,
}: {
  row: TableRow<Row>;
  /** Tab leads to it. */
  isStart: boolean;
  isPicked: boolean;
  /** By column, where its numbers have another than that of its field. */
  formats: ReadonlyMap<string, Format>;
  spans: FootAnswer['spans'] | undefined;
  held: number;
  clock: ReadBy;
  marking: Marking | null;
  editor: CellEditor | undefined;
  /** Moves the keyboard to a record further down, or up. */
  onMove: (from: HTMLElement, by: number) => void;
  onPick: (row: Row) => void;
  onOpen: (row: Row) => void;
  onPaste: RowPaste | undefined;
}) {
  const record = row.original;
  const cells = row.getVisibleCells();
  const press = (event: KeyboardEvent<HTMLTableRowElement>): void => {
    if (movedAmongPens(event)) return;
    const isPlain = !event.ctrlKey && !event.metaKey && !event.altKey;
    if (event.key === 'ArrowDown') onMove(event.currentTarget, 1);
    else if (event.key === 'ArrowUp') onMove(event.currentTarget, -1);
    else if (event.target !== event.currentTarget) return;
    else if (event.key === ' ' && marking) marking.toggle(record, event.shiftKey);
    else if (event.key === 'a' && marking && isPlain) marking.act(record);
    else if (event.key === ' ') onPick(record);
    else if (event.key === 'Enter') onOpen(record);
    else return;
    event.preventDefault();
  };
  const paste = (event: ClipboardEvent<HTMLTableRowElement>): void => {
    const text = event.clipboardData.getData('text/plain');
    // One value is no block, and in a form it goes where it is typed.
    if (!onPaste || !/[\t\n]/.test(text.trim()) || event.target instanceof HTMLInputElement) return;
    const place = (event.target as HTMLElement).closest('td');
    const at = [...event.currentTarget.cells].indexOf(place as HTMLTableCellElement) - (marking ? 1 : 0);
    event.preventDefault();
    onPaste(record, cells[at]?.column.id ?? null, text);
  };
  return (
    <tr
      tabIndex={isStart ? 0 : -1}
      aria-selected={isPicked}
      onClick={(event) => {
        // Words that were selected to be copied are no pick.
        if (!window.getSelection()?.toString()) onPick(record);
        event.currentTarget.focus({ preventScroll: true });
      }}
      onDoubleClick={() => onOpen(record)}
      onKeyDown={press}
      onPaste={paste}
      className={`cursor-pointer border-b border-hair outline-offset-[-2px] ${isPicked ? 'bg-wash shadow-[inset_3px_0_0_var(--accent)]' : 'hover:bg-wash'}`}
    >
      {marking && (
        <td className="no-print w-7 px-1.5 py-(--row-room)">
          <Tick row={record} marking={marking} />
        </td>
      )}
      {cells.map((cell, at) => {
        const { column } = metaOf(cell.column.columnDef.meta);
        const known = fieldOf(cell.column.columnDef.meta);
        const format = formats.get(cell.column.id);
        const field = format ? { ...known, format } : known;
        const value = cell.getValue() as Cell;
        const band = bandLook(value, field.bands);
        const shown = <CellView cell={value} field={field} clock={clock} />;
        return (
          <td
            key={cell.id}
            style={{ maxWidth: cell.column.getSize(), ...heldAt(at, held) }}
            title={band.title}
            className={`figures px-1.5 py-(--row-room) ${column.wrap ? 'wrap-anywhere' : 'truncate'} ${column.bar ? `isolate ${at < held ? '' : 'relative'}` : ''} ${isFigure(field) ? 'text-right' : ''} ${at < held ? 'held' : ''} ${band.className}`}
          >
            {column.bar && <Bar cell={value} span={spans?.[field.name]} />}
            {editor?.(record, field, shown) ?? shown}
          </td>
        );
      })}
    </tr>
  );
}

/** F2 goes to what can be changed in a record, arrows from one such value to the next, and Esc back to the record. */
function movedAmongPens(event: KeyboardEvent<HTMLElement>): boolean {
  const row = event.currentTarget;
  const pens = [...row.querySelectorAll<HTMLElement>('[data-pen]')];
  const at = pens.indexOf(event.target as HTMLElement);
  const isBack = event.key === 'Escape' && at >= 0;
  const to = isBack
    ? row
    : event.key === 'F2' && event.target === row
      ? pens[0]
      : at >= 0
        ? pens[at + ({ ArrowRight: 1, ArrowLeft: -1 }[event.key] ?? Number.NaN)]
        : undefined;
  if (!to) return false;
  to.focus();
  event.preventDefault();
  event.stopPropagation();
  return true;
}

/** Marks a record, or no longer; with Shift all from the last one on. */
function Tick({ row, marking }: { row: Row; marking: Marking }) {
  const name = marking.nameOf(row);
  if (name === null) return null;
  return (
    <input
      type="checkbox"
      aria-label={`Mark ${name}`}
      tabIndex={-1}
      className="size-4 align-middle accent-[var(--accent)]"
      checked={marking.isMarked(row)}
      onChange={() => undefined}
      onClick={(event) => {
        event.stopPropagation();
        marking.toggle(row, event.shiftKey);
      }}
    />
  );
}
