import type { ChartBody } from '#core/dashboard/pane/kinds/chart/kind.ts';
import type { ChartData } from '#core/dashboard/pane/kinds/chart/shape.ts';
import { formatCell, type ReadBy } from '#core/value/format/format.ts';
import { bandLook } from '../../ui/band.ts';
import type { MarkAt } from './plot.tsx';

interface Props {
  readonly body: ChartBody;
  readonly data: ChartData;
  readonly clock: ReadBy;
  readonly labels: readonly string[];
  /** Beside each label: that it is so far, or in part. */
  readonly notes: readonly string[];
  readonly names: readonly string[];
  readonly marked: number;
  readonly onPick: (category: number) => void;
  readonly onOpen: (at: MarkAt) => void;
}

/** The chart's numbers as a table: every mark can be picked and opened by keyboard. */
export function ChartTable({ body, data, clock, labels, notes, names, marked, onPick, onOpen }: Props) {
  const { measure, by, second } = body;
  const columns = [
    ...data.series.map(({ values }) => ({ values, measure })),
    ...(second && data.second ? [{ values: data.second, measure: second }] : []),
    ...(body.before ? [{ values: body.before, measure }] : []),
  ];
  const heads = body.before ? [...names, `${body.beforeWords ?? ''}, the period before`] : names;
  return (
    <div className="min-h-0 flex-1 overflow-auto">
      <table className="figures w-full border-collapse">
        <thead className="sticky top-0 ground text-small text-slate">
          <tr>
            <th scope="col" className="border-b border-line py-1 text-left">
              {by.label}
            </th>
            {heads.map((name, index) => (
              <th key={name} scope="col" className="border-b border-line py-1 pl-3 text-right">
                {name} <span className="font-normal text-muted">{columns[index]?.measure.unit}</span>
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {labels.map((label, category) => (
            <tr key={label} className={category === marked ? 'bg-wash' : ''}>
              <th scope="row" className="border-b border-hair py-0.5 text-left font-normal">
                <button
                  type="button"
                  className="min-h-6 hover:text-accent hover:underline"
                  onClick={() => onPick(category)}
                >
                  {label}
                </button>
                {notes[category] && <span className="text-small text-muted"> {notes[category]}</span>}
              </th>
              {columns.map(({ values, measure: its }, series) => {
                const band = bandLook(values[category], its.bands);
                return (
                  <td
                    key={heads[series]}
                    title={band.title}
                    className={`border-b border-hair py-0.5 pl-3 text-right ${band.className}`}
                  >
                    {series < names.length ? (
                      <button
                        type="button"
                        className="min-h-6 min-w-6 text-right hover:text-accent hover:underline"
                        onClick={() => onOpen({ category, series })}
                      >
                        {formatCell(values[category], its, clock)}
                      </button>
                    ) : (
                      formatCell(values[category], its, clock)
                    )}
                  </td>
                );
              })}
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}
