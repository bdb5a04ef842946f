import type { Format } from '#core/value/field/format.ts';
import type { FieldType } from '#core/value/field/types.ts';
import { isNumeric } from '#core/value/field/value.ts';

/** A way of writing a value, under a name that a list of choices can hold. */
export interface FormatChoice {
  readonly value: string;
  readonly words: string;
  readonly format: Format;
}

const numbers: readonly FormatChoice[] = [
  { value: 'number', words: 'a number', format: { kind: 'number' } },
  { value: 'percent', words: 'a percentage', format: { kind: 'percent' } },
  { value: 'id', words: 'an identifier', format: { kind: 'id' } },
];
const dates: readonly FormatChoice[] = [
  { value: 'date short', words: '23 Nov 2026', format: { kind: 'date', style: 'short' } },
  { value: 'date long', words: 'Monday, 23 November 2026', format: { kind: 'date', style: 'long' } },
  { value: 'date iso', words: '2026-11-23', format: { kind: 'date', style: 'iso' } },
];
const moments: readonly FormatChoice[] = [
  { value: 'moment short', words: '23 Nov 2026, 06:40', format: { kind: 'moment', style: 'short' } },
  { value: 'moment time', words: '06:40', format: { kind: 'moment', style: 'time' } },
  { value: 'moment long', words: 'Mon, 23 November 2026, 06:40', format: { kind: 'moment', style: 'long' } },
  { value: 'moment iso', words: '2026-11-23T06:40:00Z', format: { kind: 'moment', style: 'iso' } },
];
const texts: readonly FormatChoice[] = [
  { value: 'id', words: 'an identifier', format: { kind: 'id' } },
  { value: 'link', words: 'a link', format: { kind: 'link' } },
  { value: 'picture', words: 'a picture', format: { kind: 'picture' } },
];

/** The ways in which values of a type can be written, beside the usual one. */
export function formatChoices(type: FieldType): readonly FormatChoice[] {
  if (isNumeric(type)) return numbers;
  if (type === 'date') return dates;
  if (type === 'instant') return [...moments, ...dates.slice(0, 2)];
  return type === 'text' ? texts : [];
}

/** The choice that a format stands for, or '' for the usual way of its type. */
export function formatChoice(format: Format | undefined): string {
  if (!format) return '';
  return 'style' in format ? `${format.kind} ${format.style}` : format.kind;
}

/** A chosen format; how many decimals were asked for stays when the kind has them too. */
export function chosenFormat(type: FieldType, value: string, before?: Format): Format | undefined {
  const found = formatChoices(type).find((choice) => choice.value === value)?.format;
  const decimals = before && 'decimals' in before ? before.decimals : undefined;
  if (found && (found.kind === 'number' || found.kind === 'percent') && decimals !== undefined)
    return { ...found, decimals: Math.min(decimals, mostDecimals[found.kind]) };
  return found;
}

export const mostDecimals = { number: 12, percent: 6 } as const;
