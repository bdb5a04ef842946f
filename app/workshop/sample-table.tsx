import { formatNumber } from '#core/format/format.ts';
import { labelOf } from '#core/field/value.ts';
import type { Tried } from '#sources/postgres/try.ts';
import { CellView, isFigure } from '../ui/cell.tsx';

/** The first records of a request, with the type of each field and how long it took. */
export function SampleTable({ tried, zone, labels = {} }: { tried: Tried; zone: string; labels?: Record<string, string> }) {
  const fields = tried.fields.map((field) => ({ ...field, label: labels[field.name] ?? labelOf(field) }));
  return (
    <div>
      <p className="figures mb-1 text-small text-muted" role="status">
        {tried.records.length === 0 ? 'No records' : `The first ${tried.records.length}${tried.more ? ' of more' : ', and that is all'}`} · {formatNumber(String(tried.took), 0)} ms
      </p>
      {/* biome-ignore lint/a11y/noNoninteractiveTabindex: a region that scrolls must be reachable by keyboard */}
      <div className="max-h-[30rem] overflow-auto" tabIndex={0} role="group" aria-label="Records">
        <table className="w-full border-collapse text-left">
          <thead className="sticky top-0 bg-paper text-small">
            <tr>
              {fields.map((field) => (
                <th key={field.name} scope="col" className={`border-b border-line py-1 pr-4 align-bottom whitespace-nowrap ${isFigure(field) ? 'text-right' : ''}`}>
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
                {fields.map((field, at) => (
                  <td key={field.name} className={`figures max-w-72 truncate py-1 pr-4 ${isFigure(field) ? 'text-right' : ''}`}>
                    <CellView cell={record[at]} field={field} zone={zone} />
                  </td>
                ))}
              </tr>
            ))}
          </tbody>
        </table>
      </div>
    </div>
  );
}
