import type { Trend } from '#core/dashboard/pane/kinds/card/trend.ts';
import type { ShownMeasure } from '#core/dashboard/pane/shown.ts';
import { formatCell, type ReadBy } from '#core/value/format/format.ts';

const width = 96;
const height = 30;
const inset = 3;

/** How a number went, as a thin line: enough to see whether it is usual. Its target is a dotted mark; a unit that goes on ends in a ring. */
export function Spark({ trend, measure, clock }: { trend: Trend; measure: ShownMeasure; clock: ReadBy }) {
  const { unit, values, isOpen } = trend;
  const numbers = values.map((value) => (value === null ? null : Number(value)));
  const known = numbers.filter((value): value is number => value !== null && Number.isFinite(value));
  if (known.length < 2) return null;
  const target = measure.target === undefined ? null : Number(measure.target);
  const all = target === null ? known : [...known, target];
  const [least, greatest] = [Math.min(...all), Math.max(...all)];
  const x = (at: number): number => inset + (at * (width - 2 * inset)) / Math.max(1, values.length - 1);
  const y = (value: number): number =>
    greatest === least
      ? height / 2
      : height - inset - ((value - least) / (greatest - least)) * (height - 2 * inset);
  const last = numbers.at(-1) ?? null;
  const words = values.map((value) => formatCell(value, measure, clock)).join(', ');
  const title = `the last ${values.length} ${unit}s: ${words}${target === null ? '' : `; target ${formatCell(measure.target, measure, clock)}`}`;
  const whole = isOpen ? numbers.slice(0, -1) : numbers;
  const before = numbers.at(-2) ?? null;
  return (
    <svg
      viewBox={`0 0 ${width} ${height}`}
      className="mb-1 h-8 w-24 shrink-0 text-slate"
      preserveAspectRatio="none"
      role="img"
      aria-label={`${measure.label}, ${title}`}
    >
      <title>{title}</title>
      {target !== null && (
        <line
          x1={inset}
          x2={width - inset}
          y1={y(target)}
          y2={y(target)}
          stroke="currentColor"
          strokeDasharray="1 3"
          vectorEffect="non-scaling-stroke"
        />
      )}
      {stretches(whole).map((stretch) => (
        <polyline
          key={stretch[0]?.[0]}
          points={stretch.map(([at, value]) => `${x(at)},${y(value)}`).join(' ')}
          fill="none"
          stroke="currentColor"
          strokeWidth="1.5"
          strokeLinejoin="round"
          vectorEffect="non-scaling-stroke"
        />
      ))}
      {isOpen && last !== null && before !== null && (
        <line
          x1={x(values.length - 2)}
          x2={x(values.length - 1)}
          y1={y(before)}
          y2={y(last)}
          stroke="currentColor"
          strokeDasharray="2 3"
          vectorEffect="non-scaling-stroke"
        />
      )}
      {last !== null && (
        <line
          x1={x(values.length - 1)}
          x2={x(values.length - 1)}
          y1={y(last)}
          y2={y(last)}
          stroke={isOpen ? 'var(--slate)' : 'var(--accent)'}
          strokeOpacity={isOpen ? 0.55 : 1}
          strokeWidth="6"
          strokeLinecap="round"
          vectorEffect="non-scaling-stroke"
        />
      )}
    </svg>
  );
}

/** What follows each other without a gap: a unit without a value parts the line. */
function stretches(numbers: readonly (number | null)[]): [at: number, value: number][][] {
  const found: [number, number][][] = [[]];
  for (const [at, value] of numbers.entries()) {
    if (value !== null && Number.isFinite(value)) found.at(-1)?.push([at, value]);
    else if (found.at(-1)?.length) found.push([]);
  }
  return found.filter((stretch) => stretch.length > 0);
}
