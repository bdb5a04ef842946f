import type { ApexOptions } from 'apexcharts';
import type { ChartBody } from '#core/dashboard/pane/kinds/chart/kind.ts';
import { canStack, isLine, isLogarithmic } from '#core/dashboard/pane/kinds/chart/marks.ts';
import type { ChartPane } from '#core/dashboard/pane/kinds/chart/schema.ts';
import type { ChartData } from '#core/dashboard/pane/kinds/chart/shape.ts';
import type { Cell } from '#core/value/field/value.ts';
import { formatCell, type ReadBy } from '#core/value/format/format.ts';
import { resolveColour } from './colours.ts';
import { dotOptions } from './dots.ts';
import { axisLabel, axisText, axisTitle, drawn, plainFrame, themeColours, tooltipOf } from './drawn.ts';
import { numbersOf } from './drawn-by.ts';
import type { MarkAt } from './plot.tsx';
import { powerScale, type Scale } from './scale.ts';

/* What a chart looks like, as the drawing library is told. */

export interface DrawingProps {
  readonly pane: ChartPane;
  readonly body: ChartBody;
  readonly data: ChartData;
  /** What its scale goes down and up to, where it is shared. */
  readonly scale: Scale | null;
  /** One of several: small, and with few words. */
  readonly isSmall: boolean;
  readonly labels: readonly string[];
  /** Beside each label: that it is so far, or in part. */
  readonly notes: readonly string[];
  readonly names: readonly string[];
  readonly marked: number;
  /** CSS values: a colour for each series, or for each category where there is one series. */
  readonly colours: readonly string[];
  /** Series, or slices of a pie, that are switched off. */
  readonly off: ReadonlySet<number>;
  readonly clock: ReadBy;
  readonly onPick: (at: MarkAt) => void;
  readonly onOpen: (at: MarkAt) => void;
}

/** Pixels between the end of a bar and its number. */
export const numberGap = 8;

/** How many labels can stand along an axis of this many pixels without touching: a label for every n-th category. */
function ticksThatFit(labels: readonly string[], width: number): number {
  const longest = Math.max(...labels.map((label) => label.length), 1);
  const fit = Math.max(1, Math.floor((width - 70) / (longest * 7 + 16)));
  const step = Math.ceil(labels.length / fit);
  return step <= 1 ? labels.length : Math.max(1, Math.floor((labels.length - 1) / step));
}

/** Whether it is drawn as dots: only two measures can be. */
const isDots = ({ mark }: ChartPane, { second }: ChartData): boolean =>
  mark === 'dots' && second !== undefined;

export function optionsOf(
  props: DrawingProps,
  { width, height }: { width: number; height: number },
): ApexOptions {
  if (isDots(props.pane, props.data)) return dotOptions(props);
  const { pane, body, data, labels, notes, names, marked, clock, off, isSmall } = props;
  const colours = themeColours();
  const series = props.colours.map(resolveColour);
  const { measure, by } = body;
  const isPie = pane.mark === 'pie';
  const isBars = pane.mark === 'bars';
  const line = isLine(pane.mark);
  const stack = pane.stack ?? 'stacked';
  const one = data.series.length === 1;
  const twin = !isPie && one && body.before ? body.before : null;
  const second = body.second && data.second ? { measure: body.second, values: data.second } : null;
  /** A line behind or over what is drawn. */
  const extra = twin ?? (second && (off.has(1) ? second.values.map(() => null) : second.values));
  const extraColour = twin ? colours.muted : (series[1] ?? colours.accent);
  const own = pane.mark === 'area' ? 'area' : line ? 'line' : 'column';
  const isLog = isLogarithmic(pane);
  /** Where a number stands on the scale of the first measure. */
  const placed = (value: unknown): number | null => (isLog ? exponent(drawn(value)) : drawn(value));
  const exact = (series: number, category: number): string =>
    second && series === 1
      ? formatCell(second.values[category], second.measure, clock)
      : formatCell(
          twin && series === 1 ? twin[category] : data.series[series]?.values[category],
          measure,
          clock,
        );
  // Names along the axis stand aslant where they would touch; of times some are left out.
  const isCrowded = !isBars && !isPie && !by.unit && !by.bins && ticksThatFit(labels, width) < labels.length;
  const isWhole = !one && stack === 'whole' && canStack(pane.mark);
  const shown = data.series.filter((_, index) => !off.has(index));
  /** What stands on top of each other at each place. */
  const sums = isWhole
    ? labels.map((_, at) => shown.reduce((sum, { values }) => sum + (drawn(values[at]) ?? 0), 0))
    : [];
  const hasNegative = shown.some(({ values }) => values.some((value) => Number(value) < 0));
  // What is drawn as a length or a surface begins at nothing; a line shows how it goes.
  const isFromNothing = (pane.mark === 'area' || !line) && !hasNegative;
  const target = measure.target === undefined || isPie || !one || isSmall ? null : placed(measure.target);
  const scale =
    props.scale ?? (isLog ? powerScale(numbersOf([data], [...(twin ?? []), measure.target ?? null])) : null);
  const axisNumber = (value: number): string =>
    axisLabel(isLog ? 10 ** value : value, measure, clock, isWhole);
  const text = axisText(colours);
  // What is not picked steps back while something is.
  const shade = (category: number): string =>
    `${series[second ? 0 : category] ?? colours.accent}${(marked >= 0 && marked !== category) || notes[category] ? '66' : ''}`;
  const open = notes.length - 1 - notes.lastIndexOf('');
  const yaxis = {
    min: isWhole ? 0 : scale ? scale.least : isFromNothing ? 0 : undefined,
    max: isWhole ? 1 : scale ? scale.greatest : undefined,
    ...(scale && !isWhole ? { tickAmount: scale.ticks } : isSmall ? { tickAmount: 2 } : {}),
    forceNiceScale: !scale || isWhole,
    labels: {
      style: text,
      maxWidth: isSmall ? 90 : 190,
      ...(isBars ? {} : { formatter: (value: number) => axisNumber(value) }),
    },
    title: pane.up ? axisTitle(pane.up, colours) : {},
  };
  return {
    chart: {
      type: isPie ? 'donut' : pane.mark === 'area' ? 'area' : line || extra ? 'line' : 'bar',
      ...plainFrame(colours),
      stacked: !isPie && !one && canStack(pane.mark) && stack !== 'beside',
    },
    series: isPie
      ? labels.map((_, category) => (off.has(category) ? 0 : (drawn(data.series[0]?.values[category]) ?? 0)))
      : [
          ...data.series.map(({ values }, index) => ({
            name: names[index] ?? '',
            data: off.has(index)
              ? values.map(() => null)
              : isWhole
                ? sharesOf(values, sums)
                : values.map(placed),
            ...(extra ? { type: own } : {}),
          })),
          ...(extra
            ? [
                {
                  name: twin ? 'before' : (names[1] ?? ''),
                  type: 'line',
                  data: extra.map(twin ? placed : drawn),
                },
              ]
            : []),
        ],
    labels: isPie ? [...labels] : [],
    colors: isPie
      ? series
      : one && !line
        ? [
            ({ dataPointIndex }: { dataPointIndex: number }) => shade(dataPointIndex),
            ...(extra ? [extraColour] : []),
          ]
        : [...series.slice(0, data.series.length), ...(extra ? [extraColour] : [])],
    plotOptions: {
      bar: {
        horizontal: isBars,
        // Ranges of numbers follow on each other.
        columnWidth: by.bins ? '94%' : barSize(width - 60, labels.length, 0.62),
        barHeight: barSize(height - 30, labels.length, 0.62),
        borderRadius: 0,
        dataLabels: { position: 'top' },
      },
      pie: { expandOnClick: false, donut: { size: '58%' } },
    },
    dataLabels:
      isBars && one && !isSmall
        ? {
            enabled: true,
            textAnchor: 'start',
            offsetX: numberGap,
            style: { colors: [colours.ink], fontSize: '12px', fontWeight: 400 },
            formatter: (_: unknown, at: { dataPointIndex: number }) => exact(0, at.dataPointIndex),
          }
        : { enabled: false },
    stroke: {
      width: isPie ? 1 : extra ? [line ? 2.25 : 0, twin ? 1.25 : 2.25] : line ? 2.25 : 0,
      curve: pane.mark === 'step' ? 'stepline' : 'straight',
      colors: isPie ? ['var(--paper)'] : undefined,
    },
    fill:
      pane.mark === 'area' ? { type: 'solid', opacity: one ? 0.22 : 0.75 } : { type: 'solid', opacity: 1 },
    // Units of time at the end that are not whole are drawn as such.
    ...(open > 0 && !(one && !line)
      ? { forecastDataPoints: { count: open, fillOpacity: 0.45, dashArray: 4 } }
      : {}),
    markers: {
      size:
        line && pane.mark !== 'area' && labels.length < 40 && !isSmall
          ? extra
            ? [3.5, twin ? 0 : 3.5]
            : 3.5
          : second
            ? [0, 3.5]
            : 0,
      strokeWidth: 0,
    },
    grid: {
      borderColor: colours.grid,
      strokeDashArray: 0,
      padding: {
        left: isCrowded ? leftForAslant(labels, line ? 30 : 96) : 4,
        right: isBars && one && !isSmall ? 34 : 8,
        top: -18,
        bottom: -4,
      },
      xaxis: { lines: { show: isBars } },
      yaxis: { lines: { show: !isBars } },
    },
    xaxis: {
      categories: [...labels],
      labels: {
        style: text,
        rotate: isCrowded ? -40 : 0,
        rotateAlways: isCrowded,
        hideOverlappingLabels: true,
        trim: false,
        ...(isBars ? { formatter: (value: string) => axisNumber(Number(value)) } : {}),
      },
      tickAmount: isBars
        ? isSmall
          ? 2
          : 4
        : by.unit || by.bins
          ? ticksThatFit(labels, width)
          : labels.length,
      axisBorder: { show: !isBars, color: colours.grid },
      axisTicks: { show: false },
      tooltip: { enabled: false },
      title: pane.across ? axisTitle(pane.across, colours) : {},
    },
    yaxis: second
      ? [
          { ...yaxis, title: axisTitle(pane.up ?? names[0] ?? '', colours) },
          {
            opposite: true,
            forceNiceScale: true,
            labels: { style: text, formatter: (value: number) => axisLabel(value, second.measure, clock) },
            title: axisTitle(names[1] ?? '', colours),
          },
        ]
      : yaxis,
    ...(target === null
      ? {}
      : {
          annotations: {
            [isBars ? 'xaxis' : 'yaxis']: [
              {
                [isBars ? 'x' : 'y']: target,
                borderColor: colours.ink,
                strokeDashArray: 2,
                label: {
                  text: `target ${formatCell(measure.target, measure, clock)}`,
                  position: isBars ? 'top' : 'left',
                  textAnchor: isBars ? 'middle' : 'start',
                  orientation: 'horizontal',
                  borderWidth: 0,
                  style: { background: 'transparent', color: colours.ink, fontSize: '12px' },
                },
              },
            ],
          },
        }),
    // The legend is ours: names of series are values of records.
    legend: { show: false },
    states: { hover: { filter: { type: 'none' } }, active: { filter: { type: 'none' } } },
    tooltip: {
      shared: false,
      intersect: !line && !extra,
      followCursor: false,
      custom: ({ seriesIndex, dataPointIndex }: { seriesIndex: number; dataPointIndex: number }) => {
        const category = isPie ? seriesIndex : dataPointIndex;
        const series = isPie ? 0 : seriesIndex;
        return tooltipOf([
          {
            words: `${by.unit === 'week' ? 'Week of ' : ''}${labels[category] ?? ''}${notes[category] ? ` ${notes[category]}` : ''}${twin && series === 1 ? `, in the period before${body.beforeWords ? ` (${body.beforeWords})` : ''}` : one && !second ? '' : `, ${names[series] ?? ''}`}`,
            strong: false,
          },
          {
            words: `${exact(series, category)} ${(second && series === 1 ? second.measure : measure).unit ?? ''}`,
            strong: true,
          },
        ]);
      },
    },
  };
}

/** Where a number stands on a logarithmic scale. */
const exponent = (value: number | null): number | null =>
  value === null || value <= 0 ? null : Math.log10(value);

/** The values of a series as parts of what stands at each place. */
const sharesOf = (values: readonly Cell[], sums: readonly number[]): (number | null)[] =>
  values.map((value, at) => {
    const [part, whole] = [drawn(value), sums[at] ?? 0];
    return part === null || whole === 0 ? null : part / whole;
  });

/** Room for the first of names that stand aslant, which reach to the left of what they name; `there`: pixels that they have anyway. */
const leftForAslant = ([first = '']: readonly string[], there: number): number =>
  Math.min(90, Math.max(4, first.length * 4.8 - there));

/** The most pixels that a bar is wide. */
const widestBar = 28;

/** How wide bars are: a share of their places, up to the widest, as the drawing library reads it. */
const barSize = (length: number, count: number, share: number): string =>
  (length / Math.max(1, count)) * share > widestBar ? String(widestBar) : `${Math.round(share * 100)}%`;
