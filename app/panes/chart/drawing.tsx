import ApexCharts from 'apexcharts';
import { useEffect, useRef, useState } from 'react';
import { drawInTurn } from './drawing-queue.ts';
import { drawQuickly, removeQuickly } from './drawing-quickly.ts';
import { type DrawingProps, numberGap, optionsOf } from './options.ts';
import type { MarkAt } from './plot.tsx';

/** The number of a long bar stands clear of it, in the room beside the plot; the library would push it back onto the bar. */
function letNumbersClear(place: HTMLElement): void {
  const bars = place.querySelectorAll<SVGGraphicsElement>('.apexcharts-bar-area');
  place.querySelectorAll('.apexcharts-datalabel').forEach((number, at) => {
    const bar = bars[at]?.getBBox();
    const clear = bar ? bar.x + bar.width + numberGap : 0;
    if (Number(number.getAttribute('x')) < clear) number.setAttribute('x', String(clear));
  });
}

/** ApexCharts in a thin coat of ours. Loaded only in the browser, and only where there is a chart. */
export function Drawing(props: DrawingProps) {
  const place = useRef<HTMLDivElement>(null);
  const latest = useRef(props);
  latest.current = props;
  /** What is drawn, which stays until the next is drawn in its place. */
  const chart = useRef<ApexCharts | null>(null);
  useEffect(
    () => () => {
      if (chart.current) removeQuickly(chart.current);
      chart.current = null;
    },
    [],
  );
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
  const { body, data, pane, marked, off, colours, scale } = props;
  // biome-ignore lint/correctness/useExhaustiveDependencies: the theme's colours are read from the page
  useEffect(() => {
    const target = place.current;
    if (!target) return;
    const drawn = latest.current;
    const isPie = pane.mark === 'pie';
    const at = (config: { seriesIndex?: number; dataPointIndex?: number } | undefined): MarkAt | null => {
      const { seriesIndex = -1, dataPointIndex = -1 } = config ?? {};
      if (isPie) return dataPointIndex >= 0 ? { category: dataPointIndex, series: 0 } : null;
      return dataPointIndex >= 0 && seriesIndex < data.series.length + (data.second ? 1 : 0)
        ? { category: dataPointIndex, series: Math.max(0, seriesIndex) }
        : null;
    };
    const clicked = (event: MouseEvent, mark: MarkAt | null): void => {
      if (!mark) return;
      // A mark means what it was drawn for, though newer records may be about to be drawn.
      const { onOpen, onPick } = latest.current.data === data ? latest.current : drawn;
      if (event.shiftKey) onOpen(mark);
      else onPick(mark);
    };
    target.dataset.undrawn = '';
    return drawInTurn(target, () => {
      if (chart.current) removeQuickly(chart.current);
      const options = optionsOf(drawn, { width: target.clientWidth, height: target.clientHeight });
      options.chart = {
        ...options.chart,
        events: {
          dataPointSelection: (event: MouseEvent, _: unknown, config) => clicked(event, at(config)),
          markerClick: (event: MouseEvent, _: unknown, config) => clicked(event, at(config)),
          mounted: () => letNumbersClear(target),
          updated: () => letNumbersClear(target),
        },
      };
      chart.current = new ApexCharts(target, options);
      drawQuickly(chart.current);
      void chart.current.render().then(() => delete target.dataset.undrawn);
    });
  }, [body, data, pane, marked, off, colours, scale, theme]);
  return <div ref={place} data-undrawn="" className="h-full min-h-0 contain-strict" />;
}
