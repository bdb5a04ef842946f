import ChevronDown from 'lucide-react/icons/chevron-down';
import ChevronRight from 'lucide-react/icons/chevron-right';
import type { GroupHead } from '#core/dashboard/pane/kinds/table/group.ts';
import type { Noun, ShownField } from '#core/dashboard/pane/shown.ts';
import type { Cell } from '#core/value/field/value.ts';
import { counted } from '#core/value/format/counted.ts';
import { formatUnit, type ReadBy } from '#core/value/format/format.ts';
import type { DayUnit } from '#core/value/period/units.ts';
import { CellView, isFigure } from '../../ui/cell.tsx';
import { FootNumber } from './foot.tsx';

/** The values of the groups that a record or a head stands under, the outermost first, and of a head its own. */
type Path = readonly Cell[];

/** Records that stand together under heads, as a page has them. */
export interface Grouping {
  /** The outermost first. With a unit: they stand together by a unit of time. */
  readonly groups: readonly { readonly field: ShownField; readonly unit?: DayUnit }[];
  readonly noun: Noun;
  readonly pathOf: (row: readonly Cell[]) => Path;
  /** Null until the numbers have come. */
  readonly headOf: (path: Path) => GroupHead | null;
  readonly isClosed: (path: Path) => boolean;
  /** Whether a group around it is closed. */
  readonly isHidden: (path: Path) => boolean;
  readonly turn: (path: Path) => void;
}

/** The heads that stand before a record: of the groups that the record before it is not in, as far as they are in view. */
export function headsBefore(grouping: Grouping, path: Path, before: Path | null): Path[] {
  const same = before === null ? 0 : path.findIndex((value, level) => value !== before[level]);
  if (same < 0) return [];
  return path
    .map((_, level) => path.slice(0, level + 1))
    .slice(same)
    .filter((each) => !grouping.isHidden(each));
}

/** The head of the records of one group: opens and closes them, and says numbers of all of them under their columns. */
export function GroupRow({
  path,
  grouping: { groups, noun, headOf, isClosed, turn },
  fields,
  before,
  clock,
}: {
  path: Path;
  grouping: Grouping;
  /** Of the columns, in their order. */
  fields: readonly ShownField[];
  /** Columns before those of fields. */
  before: number;
  clock: ReadBy;
}) {
  const level = path.length - 1;
  const group = groups[level];
  const value = path[level] ?? null;
  const head = headOf(path);
  const feet = head?.feet ?? {};
  const firstFoot = fields.findIndex(({ name }, at) => at > 0 && name in feet);
  const width = firstFoot < 0 ? fields.length : firstFoot;
  const isOpen = !isClosed(path);
  const Turn = isOpen ? ChevronDown : ChevronRight;
  if (!group) return null;
  const { field, unit } = group;
  return (
    <tr
      data-group-head={level + 1}
      className={`border-b ${level === 0 ? 'border-line bg-well' : 'border-hair bg-well/60'}`}
    >
      <th
        scope="rowgroup"
        colSpan={before + width}
        style={{ paddingLeft: `${0.375 + level * 1.25}rem` }}
        className="py-(--row-room) pr-1.5 text-left font-normal"
      >
        <button
          type="button"
          aria-expanded={isOpen}
          className="flex min-h-6 max-w-full items-center gap-1.5 hover:text-accent"
          onClick={() => turn(path)}
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
              {counted(head.count, noun.one, noun.many)}
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
