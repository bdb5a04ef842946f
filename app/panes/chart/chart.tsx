import { lazy, Suspense, useEffect, useMemo, useState } from 'react';
import type { ChartBody } from '#core/dashboard/pane/kinds/chart/kind.ts';
import { canStack, isLine } from '#core/dashboard/pane/kinds/chart/marks.ts';
import type { ChartPane } from '#core/dashboard/pane/kinds/chart/schema.ts';
import type { ChartCategory, ChartData } from '#core/dashboard/pane/kinds/chart/shape.ts';
import type { Cell } from '#core/value/field/value.ts';
import { formatBin } from '#core/value/format/bin.ts';
import { formatCell, formatCycle, formatUnit, type ReadBy } from '#core/value/format/format.ts';
import { Button } from '../../ui/button.tsx';
import { Empty } from '../empty.tsx';
import type { PaneLook, PaneViewProps, Part } from '../view.ts';
import { ChartTable } from './chart-table.tsx';
import { colourOf } from './colours.ts';
import { Legend } from './legend.tsx';
import { type Drawn, neighboursOf, useRowScale } from './neighbours.ts';
import { roundScale, type Scale } from './scale.ts';

/** The colour of the line of a second measure. */
const secondColour = 'var(--series-2)';

const Drawing = lazy(() => import('./drawing.tsx').then((module) => ({ default: module.Drawing })));

/** Where a mark stands in a chart. */
export interface MarkAt {
  readonly category: number;
  readonly series: number;
}

/** A chart and its table twin, or one for each value of a field. A mark that is clicked becomes what is looked at; its records are one step away. */
function ChartView(props: PaneViewProps<ChartPane, ChartBody>) {
  const { pane, body, clock, actions } = props;
  const { data, by, measure, each } = body;
  const labels = useMemo(
    () => data.categories.map((category) => categoryLabel(category, body, clock)),
    [data, body, clock],
  );
  const notes = useMemo(() => data.categories.map(({ partial }) => partial ?? ''), [data]);
  const names = useMemo(
    () => [
      ...data.series.map(({ value }) =>
        value === undefined
          ? measure.label
          : value === null
            ? 'blank'
            : formatCell(value, body.split ?? { type: 'text' }, clock),
      ),
      ...(body.second ? [body.second.label] : []),
    ],
    [data, body.split, body.second, measure.label, clock],
  );
  const isPie = pane.mark === 'pie';
  const isDots = pane.mark === 'dots' && body.second !== undefined;
  const hasLegend = isPie || (names.length > 1 && !isDots);
  const colours = useMemo(
    () =>
      isPie || isDots || (data.series.length === 1 && !body.second)
        ? data.categories.map(({ value, rest }, index) =>
            rest ? 'var(--series-8)' : colourOf(by, value, isPie ? index : 0),
          )
        : [
            ...data.series.map(({ value }, index) => colourOf(body.split, value ?? null, index)),
            ...(body.second ? [secondColour] : []),
          ],
    [data, by, body.split, body.second, isPie, isDots],
  );
  const [off, setOff] = useState<ReadonlySet<number>>(new Set());
  const drawn = useMemo(
    () =>
      drawnBy(each ? each.charts.map((one) => one.data) : [data], pane, [
        ...(body.before ?? []),
        ...(each || measure.target === undefined ? [] : [measure.target]),
      ]),
    [each, data, pane, body.before, measure.target],
  );
  const rowScale = useRowScale(each || props.asTable ? null : neighboursOf(pane), pane.id, drawn);
  const scale = useMemo(
    () => (each && !pane.ownScales ? roundScale(drawn.least, drawn.greatest) : rowScale),
    [each, pane, drawn, rowScale],
  );
  if (data.categories.length === 0)
    return <Empty noun={body.noun} loosen={body.loosen} onLoosen={actions.loosen} />;
  const shared = { ...props, labels, notes, names, colours, off, scale };
  return (
    <div className="flex min-h-0 flex-1 flex-col">
      {body.before && !props.asTable && (
        <p className="flex items-center gap-1.5 text-small text-muted">
          <span aria-hidden="true" className="w-4 border-t border-muted" /> {body.beforeWords}, the period
          before
        </p>
      )}
      {hasLegend && !props.asTable && (
        <Legend
          label={`What the colours of ${pane.title} mean`}
          names={isPie ? labels : names}
          colours={colours}
          off={off}
          onSwitch={(index) => setOff(switched(off, index))}
        />
      )}
      {each ? (
        <div
          className={`grid min-h-0 flex-1 gap-x-6 gap-y-3 overflow-auto ${props.asTable ? '' : 'auto-rows-[minmax(8.5rem,1fr)]'}`}
          style={{ gridTemplateColumns: columnsFor(each.charts.length) }}
        >
          {each.charts.map(({ value, data: own }) => (
            <Plot
              key={JSON.stringify(value)}
              {...shared}
              data={own}
              only={{
                field: each.field.name,
                value,
                words:
                  value === null
                    ? `No ${each.field.label.toLowerCase()}`
                    : formatCell(value, each.field, clock),
              }}
            />
          ))}
        </div>
      ) : (
        <Plot {...shared} data={data} only={null} />
      )}
      {data.truncated && (
        <p className="text-small text-slipping">
          Only the first {data.categories.length} are drawn. Choose fewer with the reader filters, or show the
          top ones.
        </p>
      )}
    </div>
  );
}

/** The most charts beside each other. */
const mostBeside = 5;

/** As many columns as fill their rows, where there is room for them. */
function columnsFor(count: number): string {
  const columns = Math.ceil(count / Math.ceil(count / mostBeside));
  return `repeat(auto-fill, minmax(max(13rem, calc((100% - ${columns - 1} * 1.5rem) / ${columns})), 1fr))`;
}

interface PlotProps extends PaneViewProps<ChartPane, ChartBody> {
  readonly data: ChartData;
  /** The value that it is for, where there is a chart for each. */
  readonly only: { readonly field: string; readonly value: Cell; readonly words: string } | null;
  readonly labels: readonly string[];
  readonly notes: readonly string[];
  readonly names: readonly string[];
  readonly colours: readonly string[];
  readonly off: ReadonlySet<number>;
  readonly scale: Scale | null;
}

/** One drawing with what can be picked and opened in it. */
function Plot({
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
  const [isDrawn, setIsDrawn] = useState(false);
  const partOf = (field: string, value: Cell): Part => ({
    dataSet: pane.dataSet,
    field,
    value: value === null ? null : String(value),
  });
  const mine = only ? [partOf(only.field, only.value)] : [];
  const partAt = (category: number): Part | null => {
    const found = data.categories[category];
    if (!found || found.rest || by.cycle || by.bins) return null;
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
    const restOf = found.rest
      ? {
          restOf: data.categories
            .filter(({ rest, value }) => !rest && value !== null)
            .map(({ value }) => value),
        }
      : {};
    actions.open({
      kind: 'behind',
      title: [
        ...(only ? [only.words] : []),
        labels[category],
        ...(split === undefined && !isSecond ? [] : [names[series]]),
      ].join(', '),
      values,
      ...restOf,
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
      <button
        type="button"
        aria-pressed={mine.every(isPicked)}
        className="min-h-6 max-w-full truncate hover:text-accent hover:underline aria-pressed:text-accent"
        onClick={() => actions.pick(mine)}
      >
        {only.words}
      </button>
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
        data-undrawn={isDrawn ? undefined : ''}
        role="img"
        aria-label={`${only ? `${only.words}, ` : ''}${pane.title}: ${measure.label} by ${by.label.toLowerCase()}, ${labels.length} shown. The same as a table is among the pane’s tools.`}
      >
        {isClient && (
          <Suspense>
            <Drawing
              onDrawn={setIsDrawn}
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
        )}
      </div>
    </div>
  );
}

/** The least and greatest that charts draw and what stands behind them, from nothing on but where lines need not begin at it. */
function drawnBy(charts: readonly ChartData[], pane: ChartPane, besides: readonly Cell[]): Drawn {
  const isStacked = canStack(pane.mark) && (pane.stack ?? 'stacked') === 'stacked';
  const numbersOf = (values: readonly Cell[]): number[] =>
    values.flatMap((value) => (value === null || !Number.isFinite(Number(value)) ? [] : [Number(value)]));
  const sums = (data: ChartData): number[] =>
    data.categories.map((_, at) =>
      data.series.reduce((sum, { values }) => sum + (Number(values[at]) || 0), 0),
    );
  const drawn = [
    ...numbersOf(besides),
    ...charts.flatMap((data) =>
      isStacked ? sums(data) : data.series.flatMap(({ values }) => numbersOf(values)),
    ),
  ];
  const least = Math.min(...drawn);
  return {
    least: isLine(pane.mark) && !isStacked ? least : Math.min(0, least),
    greatest: Math.max(...drawn),
  };
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
  if (by.bins) return formatBin(value, by.bins, by, clock);
  if (by.cycle) return formatCycle(value, by.cycle);
  return by.unit && typeof value === 'string'
    ? formatUnit(value, by.unit, clock)
    : formatCell(value, by, clock);
}
