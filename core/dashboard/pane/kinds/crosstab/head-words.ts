import type { Cell } from '#core/value/field/value.ts';
import { formatCell, formatCycle, formatUnit, type ReadBy } from '#core/value/format/format.ts';
import type { ShownLevel } from './kind.ts';
import type { Line } from './shape.ts';

/** A value of a level as a head has it. */
export function valueWords(value: Cell | undefined, level: ShownLevel | undefined, clock: ReadBy): string {
  if (!level) return '';
  if (value === null || value === undefined) return `No ${level.field.label.toLowerCase()}`;
  if (level.cycle) return formatCycle(value, level.cycle);
  return level.unit && typeof value === 'string'
    ? formatUnit(value, level.unit, clock)
    : formatCell(value, level.field, clock);
}

/** What a line is called: its own value, or that it is a total. */
export function lineWords(line: Line, levels: readonly ShownLevel[], clock: ReadBy): string {
  const depth = line.values.length - 1;
  if (depth < 0) return 'Total';
  if (line.isRest && depth === 0) return 'The rest';
  return valueWords(line.values[depth], levels[depth], clock);
}

/** A line with all that it belongs to: "Norrick – Holm Pier, weather". */
export const pathWords = (line: Line, levels: readonly ShownLevel[], clock: ReadBy): string =>
  line.values
    .map((_, depth) => lineWords({ ...line, values: line.values.slice(0, depth + 1) }, levels, clock))
    .join(', ');
