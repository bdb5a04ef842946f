import ApexCharts, { type ApexOptions } from 'apexcharts';
import { useEffect, useRef, useState } from 'react';
import type { ChartBody } from '#core/dashboard/pane/kinds/chart/kind.ts';
import type { ChartPane } from '#core/dashboard/pane/kinds/chart/schema.ts';
import { formatCell, type ReadBy } from '#core/value/format/format.ts';
import { pageNonce } from '../../ui/nonce.ts';
import type { MarkAt } from './chart.tsx';
import { resolveColour } from './colours.ts';

export interface DrawingProps {
  readonly pane: ChartPane;
  readonly body: ChartBody;
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

/** The theme's colours as the page has them now. */
function themeColours() {
  const style = getComputedStyle(document.documentElement);
  const read = (name: string): string => style.getPropertyValue(name).trim();
  return {
    ink: read('--ink'),
    muted: read('--muted'),
    grid: read('--grid'),
    accent: read('--accent'),
  };
}

/** Drawn numbers may be approximate; what is said of them is formatted from the exact text. */
const drawn = (value: unknown): number | null =>
  value === null || value === undefined || !Number.isFinite(Number(value)) ? null : Number(value);

/** How many labels can stand along an axis of so many pixels without touching: a label for every n-th category. */
function ticksThatFit(labels: readonly string[], width: number): number {
  const longest = Math.max(...labels.map((label) => label.length), 1);
  const fit = Math.max(1, Math.floor((width - 70) / (longest * 7 + 16)));
  const step = Math.ceil(labels.length / fit);
  return step <= 1 ? labels.length : Math.max(1, Math.floor((labels.length - 1) / step));
}

function optionsOf(props: DrawingProps, { width, height }: { width: number; height: number }): ApexOptions {
  const { pane, body, labels, notes, names, marked, clock, off } = props;
  const colours = themeColours();
  const series = props.colours.map(resolveColour);
  const { data, measure, by } = body;
  const isPie = pane.mark === 'pie';
  const isBars = pane.mark === 'bars';
  const one = data.series.length === 1;
  const exact = (series: number, category: number): string =>
    formatCell(data.series[series]?.values[category], measure, clock);
  const axisLabel = (value: number): string =>
    formatCell(
      String(Number(value.toPrecision(12))),
      measure.format?.kind === 'percent'
        ? { type: 'decimal', format: { kind: 'percent', decimals: 0 } }
        : { type: 'decimal' },
      clock,
    );
  const text = { colors: colours.muted, fontSize: '12px' };
  // What is not picked steps back while something is.
  const shade = (category: number): string =>
    `${series[category] ?? colours.accent}${(marked >= 0 && marked !== category) || notes[category] ? '66' : ''}`;
  const open = notes.length - 1 - notes.lastIndexOf('');
  return {
    chart: {
      type: isPie ? 'donut' : pane.mark === 'line' ? 'line' : 'bar',
      height: '100%',
      width: '100%',
      stacked: !isPie && !one && pane.mark !== 'line',
      toolbar: { show: false },
      zoom: { enabled: false },
      animations: { enabled: false },
      background: 'transparent',
      foreColor: colours.muted,
      parentHeightOffset: 0,
      selection: { enabled: false },
      nonce: pageNonce(),
    },
    series: isPie
      ? labels.map((_, category) => (off.has(category) ? 0 : (drawn(data.series[0]?.values[category]) ?? 0)))
      : data.series.map(({ values }, index) => ({
          name: names[index] ?? '',
          data: off.has(index) ? values.map(() => null) : values.map(drawn),
        })),
    labels: isPie ? [...labels] : [],
    colors: isPie
      ? series
      : one && pane.mark !== 'line'
        ? [({ dataPointIndex }: { dataPointIndex: number }) => shade(dataPointIndex)]
        : series,
    plotOptions: {
      bar: {
        horizontal: isBars,
        columnWidth: barSize(width - 60, labels.length, 0.62),
        barHeight: barSize(height - 30, labels.length, 0.62),
        borderRadius: 0,
        dataLabels: { position: 'top' },
      },
      pie: { expandOnClick: false, donut: { size: '58%' } },
    },
    dataLabels:
      isBars && one
        ? {
            enabled: true,
            textAnchor: 'start',
            offsetX: 8,
            style: { colors: [colours.ink], fontSize: '12px', fontWeight: 400 },
            formatter: (_: unknown, at: { dataPointIndex: number }) => exact(0, at.dataPointIndex),
          }
        : { enabled: false },
    stroke: {
      width: isPie ? 1 : pane.mark === 'line' ? 2.25 : 0,
      curve: 'straight',
      colors: isPie ? ['var(--paper)'] : undefined,
    },
    fill: { opacity: 1 },
    // Units of time at the end that are not whole are drawn as such.
    ...(open > 0 && !(one && pane.mark !== 'line')
      ? { forecastDataPoints: { count: open, fillOpacity: 0.45, dashArray: 4 } }
      : {}),
    markers: { size: pane.mark === 'line' && labels.length < 40 ? 3.5 : 0, strokeWidth: 0 },
    grid: {
      borderColor: colours.grid,
      strokeDashArray: 0,
      padding: { left: 4, right: isBars && one ? 34 : 8, top: -18, bottom: -4 },
      xaxis: { lines: { show: isBars } },
      yaxis: { lines: { show: !isBars } },
    },
    xaxis: {
      categories: [...labels],
      labels: {
        style: text,
        rotate: 0,
        hideOverlappingLabels: true,
        trim: false,
        ...(isBars ? { formatter: (value: string) => axisLabel(Number(value)) } : {}),
      },
      tickAmount: isBars ? 4 : by.unit ? ticksThatFit(labels, width) : labels.length,
      axisBorder: { show: !isBars, color: colours.grid },
      axisTicks: { show: false },
      tooltip: { enabled: false },
      title: pane.across
        ? { text: pane.across, style: { color: colours.muted, fontSize: '12px', fontWeight: 400 } }
        : {},
    },
    yaxis: {
      min: pane.mark === 'line' ? undefined : 0,
      forceNiceScale: true,
      labels: {
        style: text,
        maxWidth: 190,
        ...(isBars ? {} : { formatter: (value: number) => axisLabel(value) }),
      },
      title: pane.up
        ? { text: pane.up, style: { color: colours.muted, fontSize: '12px', fontWeight: 400 } }
        : {},
    },
    // The legend is ours: names of series are values of records.
    legend: { show: false },
    states: { hover: { filter: { type: 'none' } }, active: { filter: { type: 'none' } } },
    tooltip: {
      shared: false,
      intersect: pane.mark !== 'line',
      followCursor: false,
      custom: ({ seriesIndex, dataPointIndex }: { seriesIndex: number; dataPointIndex: number }) => {
        const category = isPie ? seriesIndex : dataPointIndex;
        const series = isPie ? 0 : seriesIndex;
        const box = document.createElement('div');
        const line = (said: string, strong: boolean): void => {
          const part = box.appendChild(document.createElement('div'));
          part.textContent = said;
          part.style.fontWeight = strong ? '650' : '400';
        };
        line(
          `${by.unit === 'week' ? 'Week of ' : ''}${labels[category] ?? ''}${notes[category] ? ` ${notes[category]}` : ''}${one ? '' : `, ${names[series] ?? ''}`}`,
          false,
        );
        line(`${exact(series, category)} ${measure.unit ?? ''}`, true);
        return `<div style="padding:6px 10px">${box.innerHTML}</div>`;
      },
    },
  };
}

/** The most pixels that a bar is wide. */
const widestBar = 28;

/** How wide bars are: a share of their places, up to the widest, as the drawing library reads it. */
const barSize = (length: number, count: number, share: number): string =>
  (length / Math.max(1, count)) * share > widestBar ? String(widestBar) : `${Math.round(share * 100)}%`;

/** ApexCharts in a thin coat of ours. Loaded only in the browser, and only where there is a chart. */
export function Drawing(props: DrawingProps) {
  const place = useRef<HTMLDivElement>(null);
  const latest = useRef(props);
  latest.current = props;
  const [theme, setTheme] = useState('');
  useEffect(() => {
    const root = document.documentElement;
    const dark = window.matchMedia('(prefers-color-scheme: dark)');
    const read = (): void => setTheme(`${root.dataset.theme} ${dark.matches}`);
    const watch = new MutationObserver(read);
    watch.observe(root, { attributes: true, attributeFilter: ['data-theme'] });
    dark.addEventListener('change', read);
    return () => {
      watch.disconnect();
      dark.removeEventListener('change', read);
    };
  }, []);
  const { body, pane, marked, off, colours } = props;
  // biome-ignore lint/correctness/useExhaustiveDependencies: the theme's colours are read from the page
  useEffect(() => {
    if (!place.current) return;
    const options = optionsOf(latest.current, {
      width: place.current.clientWidth,
      height: place.current.clientHeight,
    });
    const isPie = pane.mark === 'pie';
    const at = (config: { seriesIndex?: number; dataPointIndex?: number } | undefined): MarkAt | null => {
      const { seriesIndex = -1, dataPointIndex = -1 } = config ?? {};
      if (isPie) return dataPointIndex >= 0 ? { category: dataPointIndex, series: 0 } : null;
      return dataPointIndex >= 0 ? { category: dataPointIndex, series: Math.max(0, seriesIndex) } : null;
    };
    const clicked = (event: MouseEvent, mark: MarkAt | null): void => {
      if (!mark) return;
      if (event.shiftKey) latest.current.onOpen(mark);
      else latest.current.onPick(mark);
    };
    options.chart = {
      ...options.chart,
      events: {
        dataPointSelection: (event: MouseEvent, _: unknown, config) => clicked(event, at(config)),
        markerClick: (event: MouseEvent, _: unknown, config) => clicked(event, at(config)),
      },
    };
    const chart = new ApexCharts(place.current, options);
    void chart.render();
    return () => chart.destroy();
  }, [body, pane, marked, off, colours, theme]);
  return <div ref={place} className="h-full min-h-0" />;
}
