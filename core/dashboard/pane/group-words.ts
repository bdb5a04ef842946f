import type { DataSet } from '#core/dataset/schema.ts';
import type { Group } from '#core/plan/plan.ts';
import type { Cell } from '#core/value/field/value.ts';
import { formatBin } from '#core/value/format/bin.ts';
import { formatCell, formatCycle, formatUnit } from '#core/value/format/format.ts';
import type { Clock } from '#core/value/period/period.ts';
import type { CellAddress } from './kind.ts';

/** What a number that is grouped is of, in words: "weather, week of 23 Nov". */
export function groupsWords(
  groups: readonly Group[],
  { values, of, restOf }: CellAddress,
  { fields }: DataSet,
  clock: Clock,
): string {
  const valueWords = (value: Cell, group: Group): string => {
    const field = fields.find(({ name }) => name === group.field);
    if (group.bins && field && value !== null) return formatBin(value, group.bins, field, clock);
    if (group.cycle && value !== null) return formatCycle(value, group.cycle);
    if (group.unit && typeof value === 'string')
      return `${group.unit === 'week' ? 'week of ' : ''}${formatUnit(value, group.unit, clock)}`;
    return value === null
      ? `no ${field?.label?.toLowerCase() ?? group.field}`
      : formatCell(value, field ?? { type: 'text' }, clock);
  };
  return values
    .map((value, at) => {
      const index = of ? (of[at] ?? at) : at;
      const group = groups[index];
      if (index === 0 && restOf) return 'the rest';
      return group ? valueWords(value, group) : '';
    })
    .join(', ');
}
