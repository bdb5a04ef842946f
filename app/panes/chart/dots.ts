import type { ApexOptions } from 'apexcharts';
import { formatCell } from '#core/value/format/format.ts';
import { resolveColour } from './colours.ts';
import { axisLabel, axisText, axisTitle, drawn, plainFrame, themeColours, tooltipOf } from './drawn.ts';
import type { DrawingProps } from './options.ts';
import { dotScale } from './scale.ts';

/** This many dots can bear their names. */
const mostNamed = 14;

/** Dots by two measures, one for each category: what a chart with a second measure looks like where it is drawn so. */
export function dotOptions({
  pane,
  body,
  data,
  labels,
  marked,
  clock,
  colours: own,
}: DrawingProps): ApexOptions {
  const colours = themeColours();
  const { measure, second = measure } = body;
  const up = data.series[0]?.values ?? [];
  const along = data.second ?? [];
  const text = axisText(colours);
  const points = labels.map((_, at) => ({ x: drawn(along[at]), y: drawn(up[at]) }));
  // Where either of the two is blank there is no dot.
  const shown = points.flatMap(({ x, y }) => (x === null || y === null ? [] : [{ x, y }]));
  const across = dotScale(shown.map(({ x }) => x));
  const upwards = dotScale(shown.map(({ y }) => y));
  const colourAt = (category: number): string =>
    `${resolveColour(own[category] ?? 'var(--series-1)')}${marked >= 0 && marked !== category ? '66' : ''}`;
  const unitOf = (unit: string | undefined): string => (unit ? ` ${unit}` : '');
  return {
    chart: {
      type: 'scatter',
      ...plainFrame(colours),
    },
    series: [
      {
        name: measure.label,
        data: points.map(({ x, y }): [number, number | null] => (x === null ? [across.least, null] : [x, y])),
      },
    ],
    colors: [({ dataPointIndex }: { dataPointIndex: number }) => colourAt(Math.max(0, dataPointIndex))],
    markers: {
      size: 6,
      strokeWidth: 0,
      discrete: labels.map((_, at) => ({
        seriesIndex: 0,
        dataPointIndex: at,
        fillColor: colourAt(at),
        strokeColor: 'transparent',
        size: at === marked ? 8 : 6,
      })),
    },
    dataLabels: {
      enabled: labels.length <= mostNamed,
      offsetY: -9,
      background: { enabled: false },
      style: { colors: [colours.ink], fontSize: '12px', fontWeight: 400 },
      formatter: (_: unknown, { dataPointIndex }: { dataPointIndex: number }) => labels[dataPointIndex] ?? '',
    },
    grid: {
      borderColor: colours.grid,
      padding: { left: 4, right: 16, top: 0, bottom: -4 },
      xaxis: { lines: { show: true } },
    },
    xaxis: {
      type: 'numeric',
      min: across.least,
      max: across.greatest,
      tickAmount: across.ticks,
      labels: { style: text, formatter: (value: string) => axisLabel(Number(value), second, clock) },
      axisBorder: { show: true, color: colours.grid },
      axisTicks: { show: false },
      tooltip: { enabled: false },
      title: axisTitle(pane.across ?? `${second.label}${unitOf(second.unit)}`, colours),
    },
    yaxis: {
      min: upwards.least,
      max: upwards.greatest,
      tickAmount: upwards.ticks,
      labels: { style: text, formatter: (value: number) => axisLabel(value, measure, clock) },
      title: axisTitle(pane.up ?? `${measure.label}${unitOf(measure.unit)}`, colours),
    },
    legend: { show: false },
    states: { hover: { filter: { type: 'none' } }, active: { filter: { type: 'none' } } },
    tooltip: {
      shared: false,
      intersect: true,
      custom: ({ dataPointIndex: at }: { dataPointIndex: number }) =>
        tooltipOf([
          { words: labels[at] ?? '', strong: false },
          ...[
            { of: measure, value: up[at] },
            { of: second, value: along[at] },
          ].map(({ of, value }) => ({
            words: `${of.label}: ${formatCell(value, of, clock)}${unitOf(of.unit)}`,
            strong: true,
          })),
        ]),
    },
  };
}
