import type { Field } from '#core/value/field/field.ts';
import { labelOf } from '#core/value/field/value.ts';
import { formatNumber } from '#core/value/format/format.ts';
import type { Trial } from '#sources/kind.ts';
import { CellView, isFigure } from '../ui/cell.tsx';

/** The first records of a request, with the type of each field and how long it took. */
export function SampleTable({
  tried,
  zone,
  said = [],
  asTheyStand = false,
}: {
  tried: Trial;
  zone: string;
  said?: readonly Field[];
  /** Texts of a file, shown as they are written there. */
  asTheyStand?: boolean;
}) {
  // As readers will see them where that has been said: in that order, with those labels, without what is hidden.
  const known = said.filter(({ name }) => tried.fields.some((field) => field.name === name));
  const fields = (known.length > 0 ? known.filter(({ hidden }) => !hidden) : tried.fields).map((field) => ({
    ...field,
    label: labelOf(field),
    at: tried.fields.findIndex(({ name }) => name === field.name),
  }));
  return (
    <div>
      <p className="figures mb-1 text-small text-muted" role="status">
        {tried.records.length === 0
          ? 'No records'
          : `${tried.more ? 'First' : 'All'} ${tried.records.length}`}{' '}
        · {formatNumber(String(tried.took), 0)} ms
      </p>
      {/* biome-ignore lint/a11y/noNoninteractiveTabindex: a region that scrolls must be reachable by keyboard */}
      <section className="max-h-[30rem] overflow-auto" tabIndex={0} aria-label="Records">
        <table className="w-full border-collapse text-left">
          <thead className="sticky top-0 ground text-small">
            <tr>
              {fields.map((field) => (
                <th
                  key={field.name}
                  scope="col"
                  className={`border-b border-line py-1 pr-4 align-bottom whitespace-nowrap ${isFigure(field) ? 'text-right' : ''}`}
                >
                  {field.label}
                  <span className="block font-normal text-muted">{field.type}</span>
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {tried.records.map((record, index) => (
              // biome-ignore lint/suspicious/noArrayIndexKey: records of a try have no key
              <tr key={index} className="border-b border-hair">
                {fields.map((field) => (
                  <td
                    key={field.name}
                    className={`figures max-w-72 truncate py-1 pr-4 ${isFigure(field) ? 'text-right' : ''}`}
                  >
                    <CellView
                      cell={record[field.at]}
                      field={asTheyStand ? { ...field, type: 'text' } : field}
                      clock={zone}
                    />
                  </td>
                ))}
              </tr>
            ))}
          </tbody>
        </table>
      </section>
    </div>
  );
}
