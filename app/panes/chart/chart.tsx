import { lazy, Suspense, useEffect, useMemo, useState } from 'react';
import type { ChartBody } from '#core/dashboard/pane/kinds/chart/kind.ts';
import type { ChartPane } from '#core/dashboard/pane/kinds/chart/schema.ts';
import type { ChartCategory } from '#core/dashboard/pane/kinds/chart/shape.ts';
import type { Cell } from '#core/value/field/value.ts';
import { formatCell, formatUnit, type ReadBy } from '#core/value/format/format.ts';
import { Button } from '../../ui/button.tsx';
import { Empty } from '../empty.tsx';
import type { PaneLook, PaneViewProps, Part } from '../view.ts';
import { ChartTable } from './chart-table.tsx';
import { colourOf } from './colours.ts';
import { Legend } from './legend.tsx';

const Drawing = lazy(() => import('./drawing.tsx').then((module) => ({ default: module.Drawing })));

/** Where a mark stands in a chart. */
export interface MarkAt {
  readonly category: number;
  readonly series: number;
}

/** A chart and its table twin. A mark that is clicked becomes what is looked at; its records are one step away. */
function ChartView({ pane, body, clock, isPicked, actions, asTable }: PaneViewProps<ChartPane, ChartBody>) {
  const { data, by, measure } = body;
  const [isClient, setIsClient] = useState(false);
  useEffect(() => setIsClient(true), []);
  const labels = useMemo(
    () => data.categories.map((category) => categoryLabel(category, body, clock)),
    [data, body, clock],
  );
  const notes = useMemo(() => data.categories.map(({ partial }) => partial ?? ''), [data]);
  const names = useMemo(
    () =>
      data.series.map(({ value }) =>
        value === undefined
          ? measure.label
          : value === null
            ? 'blank'
            : formatCell(value, body.split ?? { type: 'text' }, clock),
      ),
    [data, body.split, measure.label, clock],
  );
  const isPie = pane.mark === 'pie';
  const hasLegend = isPie || data.series.length > 1;
  const colours = useMemo(
    () =>
      isPie || data.series.length === 1
        ? data.categories.map(({ value, rest }, index) =>
            rest ? 'var(--series-8)' : colourOf(by, value, isPie ? index : 0),
          )
        : data.series.map(({ value }, index) => colourOf(body.split, value, index)),
    [data, by, body.split, isPie],
  );
  const [off, setOff] = useState<ReadonlySet<number>>(new Set());
  const partAt = (category: number): Part | null => {
    const found = data.categories[category];
    if (!found || found.rest) return null;
    return {
      dataSet: pane.dataSet,
      field: pane.by.field,
      ...(by.unit ? { unit: by.unit } : {}),
      value: found.value === null ? null : String(found.value),
    };
  };
  const marked = data.categories.findIndex((_, index) => {
    const part = partAt(index);
    return part !== null && isPicked(part);
  });
  const openAt = ({ category, series }: MarkAt): void => {
    const found = data.categories[category];
    if (!found) return;
    const split = data.series[series]?.value;
    const values: Cell[] = [found.rest ? null : found.value, ...(split === undefined ? [] : [split])];
    const restOf = found.rest
      ? {
          restOf: data.categories
            .filter(({ rest, value }) => !rest && value !== null)
            .map(({ value }) => value),
        }
      : {};
    actions.open({
      kind: 'behind',
      title: [labels[category], ...(split === undefined ? [] : [names[series]])].join(', '),
      values,
      ...restOf,
    });
  };
  /** A part of a stack picks both of its categories; the same part again takes both back. */
  const pickAt = ({ category, series }: MarkAt): void => {
    const part = partAt(category);
    const split = data.series[series]?.value;
    if (!part) openAt({ category, series });
    else if (split === undefined || pane.split === undefined) actions.pick([part]);
    else
      actions.pick([
        part,
        { dataSet: pane.dataSet, field: pane.split, value: split === null ? null : String(split) },
      ]);
  };
  const pickCategory = (category: number): void => {
    const part = partAt(category);
    if (part) actions.pick([part]);
    else openAt({ category, series: 0 });
  };
  if (data.categories.length === 0)
    return <Empty noun={body.noun} loosen={body.loosen} onLoosen={actions.loosen} />;
  if (asTable)
    return (
      <ChartTable
        body={body}
        clock={clock}
        notes={notes}
        labels={labels}
        names={names}
        marked={marked}
        onPick={pickCategory}
        onOpen={openAt}
      />
    );
  return (
    <div className="flex min-h-0 flex-1 flex-col">
      {marked >= 0 && (
        <p className="flex flex-wrap items-center gap-x-2 text-small">
          <span className="font-strong">{labels[marked]}</span>
          <span className="text-muted">
            {formatCell(
              data.series.length === 1 ? data.series[0]?.values[marked] : undefined,
              measure,
              clock,
            ).replace('—', '')}{' '}
            {data.series.length === 1 ? measure.label : ''}
          </span>
          <Button
            look="quiet"
            className="min-h-6 px-1"
            onClick={() => openAt({ category: marked, series: 0 })}
          >
            Records behind
          </Button>
          <Button look="quiet" className="min-h-6 px-1" onClick={() => pickCategory(marked)}>
            Clear
          </Button>
        </p>
      )}
      {hasLegend && (
        <Legend
          label={`What the colours of ${pane.title} mean`}
          names={isPie ? labels : names}
          colours={colours}
          off={off}
          onSwitch={(index) => setOff(switched(off, index))}
        />
      )}
      <div
        className="min-h-0 flex-1"
        role="img"
        aria-label={`${pane.title}: ${measure.label} by ${by.label.toLowerCase()}, ${labels.length} shown. The same as a table is among the pane’s tools.`}
      >
        {isClient && (
          <Suspense>
            <Drawing
              pane={pane}
              body={body}
              labels={labels}
              notes={notes}
              names={names}
              marked={marked}
              clock={clock}
              onPick={pickAt}
              colours={colours}
              off={off}
              onOpen={openAt}
            />
          </Suspense>
        )}
      </div>
      {data.truncated && (
        <p className="text-small text-slipping">
          Only the first {data.categories.length} are drawn. Choose fewer with the reader filters, or show the
          top ones.
        </p>
      )}
    </div>
  );
}

export const chart: PaneLook<ChartPane, ChartBody> = { View: ChartView, hasTwin: true, fills: 'all' };

function switched(off: ReadonlySet<number>, index: number): ReadonlySet<number> {
  const next = new Set(off);
  if (!next.delete(index)) next.add(index);
  return next;
}

function categoryLabel({ value, rest }: ChartCategory, { by }: ChartBody, clock: ReadBy): string {
  if (rest) return 'The rest';
  if (value === null) return `No ${by.label.toLowerCase()}`;
  return by.unit && typeof value === 'string'
    ? formatUnit(value, by.unit, clock)
    : formatCell(value, by, clock);
}
