import type { Table } from '@tanstack/react-table';
import ArrowDown from 'lucide-react/icons/arrow-down';
import ArrowUp from 'lucide-react/icons/arrow-up';
import { useLayoutEffect, useRef, useState } from 'react';
import type { ListOrder } from '#core/dashboard/pane/list-view.ts';
import { isFigure } from '../../ui/cell.tsx';
import { heldAt } from './foot.tsx';
import { fieldOf, type Marking, type Row } from './record-row.tsx';

interface Props {
  readonly table: Table<Row>;
  readonly order: ListOrder;
  readonly onSort: ((field: string, add: boolean) => void) | undefined;
  readonly onMove: ((field: string, to: number) => void) | undefined;
  readonly held: number;
  readonly marking: Marking | null;
  /** The keyboard goes down to the records. */
  readonly onLeave: () => void;
}

/** What is dragged, as a browser tells it from other things. */
const columnData = 'application/x-column';

/** Which way keys go along the heads. */
const steps: Readonly<Record<string, number>> = { ArrowLeft: -1, ArrowRight: 1 };

/** How many pixels a key makes a column wider. */
const widened = 16;

/**
 * The heads of a table of records. They sort (with Shift: as well), and are dragged to another place; edges resize. The keyboard enters
 * them once: arrows move along them and down to the records; with Shift they resize a column, with Ctrl as well they move it.
 */
export function Heads({ table, order, onSort, onMove, held, marking, onLeave }: Props) {
  const place = useRef<HTMLTableSectionElement>(null);
  const headers = table.getLeafHeaders();
  const [visited, setVisited] = useState<string | null>(null);
  const start = headers.some(({ id }) => id === visited) ? visited : headers[0]?.id;
  const focusOn = (id: string | undefined): void =>
    place.current?.querySelector<HTMLElement>(`th[data-column="${CSS.escape(id ?? '')}"] button`)?.focus();
  // A column that keys have moved keeps the keyboard.
  const moved = useRef<string | null>(null);
  const inOrder = headers.map(({ id }) => id).join('\n');
  // biome-ignore lint/correctness/useExhaustiveDependencies: when the columns stand in another order
  useLayoutEffect(() => {
    if (moved.current !== null) focusOn(moved.current);
    moved.current = null;
  }, [inOrder]);
  return (
    <thead ref={place} className="sticky top-0 z-10 ground">
      <tr>
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
        {headers.map((header) => {
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
                const dragged = event.dataTransfer.getData(columnData);
                if (dragged === '' || dragged === header.id) return;
                event.preventDefault();
                onMove?.(dragged, header.index);
              }}
              aria-sort={at === 0 ? (sorted?.descending ? 'descending' : 'ascending') : undefined}
              className={`group/th relative border-b border-line px-1.5 py-1 text-small whitespace-nowrap text-slate ${header.index < held ? 'held z-20' : ''}`}
            >
              <button
                type="button"
                disabled={!onSort}
                title={field.description}
                onClick={(event) => onSort?.(header.id, event.shiftKey)}
                tabIndex={header.id === start ? 0 : -1}
                onFocus={() => setVisited(header.id)}
                onKeyDown={(event) => {
                  const step = steps[event.key];
                  if (step === undefined && event.key !== 'ArrowDown') return;
                  event.preventDefault();
                  if (step === undefined) onLeave();
                  else if (!event.shiftKey) focusOn(headers[header.index + step]?.id);
                  else if (event.ctrlKey) {
                    const to = header.index + step;
                    if (to < 0 || to >= headers.length || !onMove) return;
                    moved.current = header.id;
                    onMove(header.id, to);
                  } else {
                    const size = header.getSize() + step * widened;
                    table.setColumnSizing((sizes) => ({
                      ...sizes,
                      [header.id]: Math.max(header.column.columnDef.minSize ?? 0, size),
                    }));
                  }
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
    </thead>
  );
}
