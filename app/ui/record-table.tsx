import type { KeyboardEventHandler, ReactNode } from 'react';
import type { ShownField } from '#core/dashboard/pane/shown.ts';
import type { Cell } from '#core/value/field/value.ts';
import type { ReadBy } from '#core/value/format/format.ts';
import { bandLook } from './band.ts';
import { CellView, isFigure } from './cell.tsx';
import { Scroll } from './scroll.tsx';

interface Props<F extends ShownField> {
  readonly label: string;
  readonly fields: readonly F[];
  /** Each with a cell for each field, in their order. */
  readonly records: readonly (readonly (Cell | undefined)[])[];
  readonly clock: ReadBy;
  readonly className?: string;
  readonly busy?: boolean;
  /** What stands over a column; its label where absent. */
  readonly head?: (field: F) => ReactNode;
  /** What stands in a cell, given what it says; that alone where absent. */
  readonly cell?: (content: ReactNode, at: { readonly record: number; readonly column: number }) => ReactNode;
  readonly onKeyDown?: KeyboardEventHandler;
}

/** Records as they are while a data set is being built: nothing in them is sorted, picked or opened by the table itself. */
export function RecordTable<F extends ShownField>({
  label,
  fields,
  records,
  clock,
  className = '',
  busy = false,
  head = ({ label: words }) => words,
  cell = (content) => content,
  onKeyDown,
}: Props<F>) {
  return (
    <Scroll label={label} className={`${className} ${busy ? 'opacity-60' : ''}`} aria-busy={busy}>
      <table className="figures w-full border-collapse text-left">
        <thead className="sticky top-0 z-10 ground text-small">
          <tr>
            {fields.map((field) => (
              <th
                key={field.name}
                scope="col"
                className={`border-b border-line py-1 pr-4 align-bottom whitespace-nowrap ${isFigure(field) ? 'text-right' : ''}`}
              >
                {head(field)}
              </th>
            ))}
          </tr>
        </thead>
        <tbody {...(onKeyDown ? { onKeyDown } : {})}>
          {records.map((record, index) => (
            // biome-ignore lint/suspicious/noArrayIndexKey: these records may have no key
            <tr key={index} className="border-b border-hair hover:bg-wash">
              {fields.map((field, column) => {
                const band = bandLook(record[column], field.bands);
                return (
                  <td
                    key={field.name}
                    title={band.title}
                    className={`max-w-72 truncate py-1 pr-4 ${isFigure(field) ? 'text-right' : ''} ${band.className}`}
                  >
                    {cell(<CellView cell={record[column]} field={field} clock={clock} />, {
                      record: index,
                      column,
                    })}
                  </td>
                );
              })}
            </tr>
          ))}
        </tbody>
      </table>
    </Scroll>
  );
}
