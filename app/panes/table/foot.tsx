import {
  type BarSpan,
  barOf,
  type Foot,
  type FootAnswer,
  footingWords,
} from '#core/dashboard/pane/kinds/table/foot.ts';
import type { ShownField } from '#core/dashboard/pane/shown.ts';
import type { Cell } from '#core/value/field/value.ts';
import { formatCell, type ReadBy } from '#core/value/format/format.ts';
import { isFigure } from '../../ui/cell.tsx';

/** Where a column stands that is held, once the grid has measured those before it. */
export const heldAt = (at: number, held: number) => (at < held ? { left: `var(--held-${at}, 0)` } : {});

/** What stands below the columns of a table: numbers of all its records. */
export function FootRow({
  fields,
  sizes,
  foot: { feet = {} },
  held,
  clock,
  before = 0,
}: {
  /** Of the columns, in their order. */
  fields: readonly ShownField[];
  /** How wide they are, in pixels. */
  sizes: readonly number[];
  foot: Partial<FootAnswer>;
  held: number;
  clock: ReadBy;
  /** Columns before those of fields. */
  before?: number;
}) {
  if (Object.keys(feet).length === 0) return null;
  return (
    <tfoot className="ground sticky bottom-0 z-10">
      <tr aria-label="Of all records">
        {before > 0 && <td colSpan={before} className="no-print border-t border-line" />}
        {fields.map((field, at) => {
          const found = feet[field.name];
          return (
            <td
              key={field.name}
              style={{ maxWidth: sizes[at], ...heldAt(at, held) }}
              className={`figures truncate border-t border-line px-1.5 py-1 ${isFigure(field) ? 'text-right' : ''} ${at < held ? 'held' : ''}`}
            >
              <FootNumber foot={found} field={field} clock={clock} />
            </td>
          );
        })}
      </tr>
    </tfoot>
  );
}

/** A number of all records, with the word for what it is. */
export function FootNumber({
  foot,
  field,
  clock,
}: {
  foot: Foot | undefined;
  field: ShownField;
  clock: ReadBy;
}) {
  if (!foot) return null;
  if (foot.footing === 'distinct')
    return (
      <>
        <Figure>{formatCell(foot.value, { type: 'integer' }, clock)}</Figure>{' '}
        <Word>{footingWords.distinct}</Word>
      </>
    );
  return (
    <>
      <Word>{footingWords[foot.footing]}</Word>{' '}
      <Figure>{formatCell(foot.value, { ...field, type: foot.type }, clock)}</Figure>
    </>
  );
}

const Figure = ({ children }: { children: string }) => <span className="font-strong">{children}</span>;
const Word = ({ children }: { children: string }) => (
  <span className="text-small text-muted">{children}</span>
);

/** A bar behind a number. */
export function Bar({ cell, span }: { cell: Cell; span: BarSpan | undefined }) {
  const bar = span && barOf(cell, span);
  if (!bar) return null;
  return (
    <span aria-hidden="true" className="absolute inset-y-0.5 right-0.5 left-2 -z-10">
      <span
        className="absolute inset-y-0 bg-[var(--cell-bar)] [print-color-adjust:exact]"
        style={{ left: `${bar.from * 100}%`, width: `${bar.length * 100}%` }}
      />
    </span>
  );
}
