import { lazy, Suspense, useEffect, useState } from 'react';
import type { ChartBody } from '#core/dashboard/pane/kinds/chart/kind.ts';
import type { ChartPane } from '#core/dashboard/pane/kinds/chart/schema.ts';
import type { ChartData } from '#core/dashboard/pane/kinds/chart/shape.ts';
import type { Cell } from '#core/value/field/value.ts';
import { formatCell } from '#core/value/format/format.ts';
import { Button } from '../../ui/button.tsx';
import type { PaneViewProps, Part } from '../view.ts';
import { ChartTable } from './chart-table.tsx';
import type { Scale } from './scale.ts';

const Drawing = lazy(() => import('./drawing.tsx').then((module) => ({ default: module.Drawing })));

/** Where a mark stands in a chart. */
export interface MarkAt {
  readonly category: number;
  readonly series: number;
}

interface PlotProps extends PaneViewProps<ChartPane, ChartBody> {
  readonly data: ChartData;
  /** The value that it is for, where there is a chart for each; or all but those that have one. */
  readonly only: {
    readonly field: string;
    readonly value: Cell;
    readonly words: string;
    readonly restOf?: readonly Cell[];
  } | null;
  readonly labels: readonly string[];
  readonly notes: readonly string[];
  readonly names: readonly string[];
  readonly colours: readonly string[];
  readonly off: ReadonlySet<number>;
  readonly scale: Scale | null;
}

/** The values that have a place of their own. */
export const withoutRest = (places: readonly { readonly value: Cell; readonly rest?: boolean }[]): Cell[] =>
  places.flatMap(({ value, rest }) => (rest || value === null ? [] : [value]));

/** Stands where a chart will be drawn, for whoever waits for that. */
const undrawn = <span hidden data-undrawn="" />;

/** One drawing with what can be picked and opened in it. */
export function Plot({
  pane,
  body,
  data,
  only,
  clock,
  isPicked,
  actions,
  asTable,
  labels,
  notes,
  names,
  colours,
  off,
  scale,
}: PlotProps) {
  const { by, measure } = body;
  const [isClient, setIsClient] = useState(false);
  useEffect(() => setIsClient(true), []);
  const partOf = (field: string, value: Cell): Part => ({
    dataSet: pane.dataSet,
    field,
    value: value === null ? null : String(value),
  });
  /** What is many values together cannot be picked. */
  const isOfRest = only?.restOf !== undefined;
  const mine = only && !isOfRest ? [partOf(only.field, only.value)] : [];
  const partAt = (category: number): Part | null => {
    const found = data.categories[category];
    if (!found || found.rest || isOfRest || by.cycle || by.bins) return null;
    return { ...partOf(pane.by.field, found.value), ...(by.unit ? { unit: by.unit } : {}) };
  };
  const marked =
    mine.every(isPicked) || !only
      ? data.categories.findIndex((_, index) => {
          const part = partAt(index);
          return part !== null && isPicked(part);
        })
      : -1;
  const openAt = ({ category, series }: MarkAt): void => {
    const found = data.categories[category];
    if (!found) return;
    const split = data.series[series]?.value;
    const isSecond = body.second !== undefined && series === 1;
    const values: Cell[] = [
      ...(only ? [only.value] : []),
      found.rest ? null : found.value,
      ...(split === undefined ? [] : [split]),
    ];
    const restOf = only?.restOf ?? (found.rest ? withoutRest(data.categories) : undefined);
    actions.open({
      kind: 'behind',
      title: [
        ...(only ? [only.words] : []),
        labels[category],
        ...(split === undefined && !isSecond ? [] : [names[series]]),
      ].join(', '),
      values,
      ...(restOf ? { restOf } : {}),
      ...(by.bins ? { bins: by.bins } : {}),
      ...(isSecond ? { measure: 1 } : {}),
    });
  };
  /** A part of a stack picks all of its categories; the same part again takes them back. */
  const pickAt = ({ category, series }: MarkAt): void => {
    const part = partAt(category);
    const split = data.series[series]?.value;
    if (!part) openAt({ category, series });
    else if (split === undefined || pane.split === undefined) actions.pick([...mine, part]);
    else actions.pick([...mine, part, partOf(pane.split, split)]);
  };
  const pickCategory = (category: number): void => {
    const part = partAt(category);
    if (part) actions.pick([...mine, part]);
    else openAt({ category, series: 0 });
  };
  const head = only && (
    <h3 className="text-small">
      {isOfRest ? (
        <span className="inline-block min-h-6 text-muted">{only.words}</span>
      ) : (
        <button
          type="button"
          aria-pressed={mine.every(isPicked)}
          className="min-h-6 max-w-full truncate hover:text-accent hover:underline aria-pressed:text-accent"
          onClick={() => actions.pick(mine)}
        >
          {only.words}
        </button>
      )}
    </h3>
  );
  if (asTable)
    return (
      <div className="flex min-h-0 flex-1 flex-col">
        {head}
        <ChartTable
          body={body}
          data={data}
          clock={clock}
          notes={notes}
          labels={labels}
          names={names}
          marked={marked}
          onPick={pickCategory}
          onOpen={openAt}
        />
      </div>
    );
  return (
    <div className="flex min-h-0 min-w-0 flex-1 flex-col">
      {head}
      {marked >= 0 && (
        <p className="flex flex-wrap items-center gap-x-2 text-small">
          <span className="font-strong">{labels[marked]}</span>
          <span className="text-muted">
            {formatCell(
              data.series.length === 1 ? data.series[0]?.values[marked] : undefined,
              measure,
              clock,
            ).replace('—', '')}{' '}
            {data.series.length === 1 && !only ? measure.label : ''}
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
      <div
        className="min-h-0 flex-1"
        role="img"
        aria-label={`${only ? `${only.words}, ` : ''}${pane.title}: ${measure.label} by ${by.label.toLowerCase()}, ${labels.length} shown. The same as a table is among the pane’s tools.`}
      >
        {isClient ? (
          <Suspense fallback={undrawn}>
            <Drawing
              pane={pane}
              body={body}
              data={data}
              scale={scale}
              isSmall={only !== null}
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
        ) : (
          undrawn
        )}
      </div>
    </div>
  );
}
