import type { Field } from '#core/value/field/field.ts';
import type { Cell } from '#core/value/field/value.ts';
import { formatCell, formatNumber, type ReadBy } from '#core/value/format/format.ts';
import type { ValueCount } from '#server/value-counts.ts';
import { CheckField } from './field.tsx';

/** Values are the same whatever their case, as they are where they are looked for. */
const same = (a: string | null, b: string | null): boolean => a?.toLowerCase() === b?.toLowerCase();

const keyOf = (value: Cell): string | null => (value === null ? null : String(value));

/** The chosen values with one put in, or taken out where it was among them. */
export const toggleValue = (chosen: readonly (string | null)[], value: string | null): (string | null)[] =>
  chosen.some((each) => same(each, value)) ? chosen.filter((each) => !same(each, value)) : [...chosen, value];

/** Values that exist, each with how many records have it, several of which can be chosen. */
export function ValueList({
  found,
  chosen,
  withChosen,
  field,
  clock,
  onToggle,
}: {
  found: readonly ValueCount[];
  chosen: readonly (string | null)[];
  /** What is chosen stays in sight even where nothing has that value. */
  withChosen: boolean;
  field: Pick<Field, 'type' | 'states' | 'format'>;
  clock: ReadBy;
  onToggle: (value: string | null) => void;
}) {
  const gone = withChosen
    ? chosen.filter((value) => !found.some((each) => same(keyOf(each.value), value)))
    : [];
  const rows: readonly ValueCount[] = [...gone.map((value) => ({ value, count: '0' })), ...found];
  return (
    <ul className="-m-1.5 flex max-h-[min(18rem,26vh)] flex-col gap-0.5 overflow-auto p-1.5">
      {rows.map(({ value, count }) => (
        <li key={String(keyOf(value))}>
          <CheckField
            checked={chosen.some((each) => same(each, keyOf(value)))}
            onChange={() => onToggle(keyOf(value))}
            label={
              <span className="flex justify-between gap-3">
                <span className={`truncate ${value === null ? 'text-muted' : ''}`}>
                  {value === null ? 'blank' : formatCell(value, field, clock)}
                </span>
                <span className="figures text-muted">{formatNumber(count)}</span>
              </span>
            }
          />
        </li>
      ))}
    </ul>
  );
}
