import { ChevronDown, ChevronRight } from 'lucide-react';
import type { GroupHead } from '#core/dashboard/pane/kinds/table/group.ts';
import type { Noun, ShownField } from '#core/dashboard/pane/shown.ts';
import type { Cell } from '#core/value/field/value.ts';
import { formatNumber, formatUnit, type ReadBy } from '#core/value/format/format.ts';
import type { DayUnit } from '#core/value/period/units.ts';
import { CellView, isFigure } from '../../ui/cell.tsx';
import { FootNumber } from './foot.tsx';

/** Records that stand together under a head, as a page has them. */
export interface Grouping {
  readonly field: ShownField;
  /** They stand together by a unit of time of it. */
  readonly unit?: DayUnit;
  readonly noun: Noun;
  readonly valueOf: (row: readonly Cell[]) => Cell;
  /** Null until the numbers have come. */
  readonly headOf: (value: Cell) => GroupHead | null;
  readonly isClosed: (value: Cell) => boolean;
  readonly turn: (value: Cell) => void;
}

/** The head of the records of one value: opens and closes them, and says numbers of all of them under their columns. */
export function GroupRow({
  value,
  grouping: { field, unit, noun, headOf, isClosed, turn },
  fields,
  before,
  clock,
}: {
  value: Cell;
  grouping: Grouping;
  /** Of the columns, in their order. */
  fields: readonly ShownField[];
  /** Columns before those of fields. */
  before: number;
  clock: ReadBy;
}) {
  const head = headOf(value);
  const feet = head?.feet ?? {};
  const firstFoot = fields.findIndex(({ name }, at) => at > 0 && name in feet);
  const width = firstFoot < 0 ? fields.length : firstFoot;
  const isOpen = !isClosed(value);
  const Turn = isOpen ? ChevronDown : ChevronRight;
  return (
    <tr data-group-head className="border-b border-line bg-well">
      <th scope="rowgroup" colSpan={before + width} className="px-1.5 py-(--row-room) text-left font-normal">
        <button
          type="button"
          aria-expanded={isOpen}
          className="flex min-h-6 max-w-full items-center gap-1.5 hover:text-accent"
          onClick={() => turn(value)}
        >
          <Turn className="size-4 shrink-0 text-muted" aria-hidden="true" />
          <span className="truncate font-strong">
            {value === null ? (
              `No ${field.label.toLowerCase()}`
            ) : unit ? (
              `${unit === 'week' ? 'Week of ' : ''}${formatUnit(String(value), unit, clock)}`
            ) : (
              <CellView cell={value} field={field} clock={clock} />
            )}
          </span>
          {head && (
            <span className="figures shrink-0 text-small text-muted">
              {formatNumber(head.count)} {head.count === '1' ? noun.one : noun.many}
            </span>
          )}
        </button>
      </th>
      {fields.slice(width).map((each) => (
        <td
          key={each.name}
          className={`figures truncate px-1.5 py-(--row-room) ${isFigure(each) ? 'text-right' : ''}`}
        >
          <FootNumber foot={feet[each.name]} field={each} clock={clock} />
        </td>
      ))}
    </tr>
  );
}
