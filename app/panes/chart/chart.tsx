import { useMemo, useState } from 'react';
import type { ChartBody } from '#core/dashboard/pane/kinds/chart/kind.ts';
import { isLine, isLogarithmic } from '#core/dashboard/pane/kinds/chart/marks.ts';
import type { ChartPane } from '#core/dashboard/pane/kinds/chart/schema.ts';
import type { ChartCategory } from '#core/dashboard/pane/kinds/chart/shape.ts';
import type { ShownField } from '#core/dashboard/pane/shown.ts';
import { formatBin } from '#core/value/format/bin.ts';
import { counted } from '#core/value/format/counted.ts';
import { formatCell, formatCycle, formatUnit, type ReadBy } from '#core/value/format/format.ts';
import { Empty } from '../empty.tsx';
import type { PaneLook, PaneViewProps } from '../view.ts';
import { colourOf } from './colours.ts';
import { drawnBy, numbersOf } from './drawn-by.ts';
import { Legend } from './legend.tsx';
import { neighboursOf, useRowScale } from './neighbours.ts';
import { Plot, withoutRest } from './plot.tsx';
import { powerScale, roundScale } from './scale.ts';

/** The colour of the line of a second measure. */
const secondColour = 'var(--series-2)';

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
  const parts = isLine(pane.mark) && pane.mark !== 'area' ? 'lines' : 'surfaces';
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
  const charts = useMemo(() => (each ? each.charts.map((one) => one.data) : [data]), [each, data]);
  const drawn = useMemo(
    () =>
      drawnBy(charts, pane, [
        ...(body.before ?? []),
        ...(each || measure.target === undefined ? [] : [measure.target]),
      ]),
    [charts, each, pane, body.before, measure.target],
  );
  const rowScale = useRowScale(each || props.asTable ? null : neighboursOf(pane), pane.id, drawn);
  const isLog = isLogarithmic(pane);
  const scale = useMemo(() => {
    if (!each || pane.ownScales) return rowScale;
    return isLog ? powerScale(numbersOf(charts, [])) : roundScale(drawn.least, drawn.greatest);
  }, [each, charts, pane, drawn, isLog, rowScale]);
  const unplaced = isLog ? numbersOf(charts, []).filter((value) => value <= 0).length : 0;
  if (data.categories.length === 0)
    return <Empty noun={body.noun} loosen={body.loosen} onLoosen={actions.loosen} />;
  const shared = { ...props, labels, notes, names, colours, off, scale };
  return (
    <div
      className="flex min-h-0 flex-1 flex-col"
      // A line over columns is told from them by its shape.
      data-parts={hasLegend && !body.second ? parts : undefined}
    >
      {body.before && !props.asTable && (
        <p className="flex items-center gap-1.5 text-small text-muted">
          <span aria-hidden="true" className="w-4 border-t border-muted" /> {body.beforeWords}, the period
          before
        </p>
      )}
      {hasLegend && !props.asTable && (
        <Legend
          parts={parts}
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
          {each.charts.map((one) => (
            <Plot
              key={JSON.stringify([one.value, one.rest])}
              {...shared}
              data={one.data}
              only={{
                field: each.field.name,
                value: one.value,
                words: valueWords(one, each.field, clock),
                ...(one.rest ? { restOf: withoutRest(each.charts) } : {}),
              }}
            />
          ))}
        </div>
      ) : (
        <Plot {...shared} data={data} only={null} />
      )}
      {unplaced > 0 && (
        <p className="text-small text-muted">
          {counted(unplaced, 'number')} at or below zero cannot stand on a logarithmic scale. The same as a
          table has {unplaced === 1 ? 'it' : 'them'}.
        </p>
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

export const chart: PaneLook<ChartPane, ChartBody> = { View: ChartView, hasTwin: true, fills: 'all' };

function switched(off: ReadonlySet<number>, index: number): ReadonlySet<number> {
  const next = new Set(off);
  if (!next.delete(index)) next.add(index);
  return next;
}

/** The words of a value that numbers are of. */
function valueWords({ value, rest }: ChartCategory, field: ShownField, clock: ReadBy): string {
  if (rest) return 'The rest';
  return value === null ? `No ${field.label.toLowerCase()}` : formatCell(value, field, clock);
}

function categoryLabel(category: ChartCategory, { by }: ChartBody, clock: ReadBy): string {
  const { value, rest } = category;
  if (rest || value === null) return valueWords(category, by, clock);
  if (by.bins) return formatBin(value, by.bins, by, clock);
  if (by.cycle) return formatCycle(value, by.cycle);
  return by.unit && typeof value === 'string'
    ? formatUnit(value, by.unit, clock)
    : formatCell(value, by, clock);
}
