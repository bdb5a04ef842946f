import type { Action, Setting } from '#core/dataset/change/schema.ts';
import type { Column } from '#core/dataset/schema.ts';
import type { Field } from '#core/value/field/field.ts';
import { isNumeric, type Parsed, parseValue } from '#core/value/field/value.ts';
import { decimalMark } from '#core/value/number-style.ts';
import { instantOfLocal } from '#core/value/period/local.ts';
import { type Clock, dayOf } from '#core/value/period/period.ts';
import { listWords } from '#core/words/condition.ts';

/* Whether a value may be given to a field, said before it is sent; and what an action sets fields to. Pure. */

/** What is known of a field whose value is to be given. */
export interface Target {
  readonly field: Pick<Field, 'name' | 'type' | 'label' | 'states'>;
  readonly column: Pick<Column, 'filled' | 'longest' | 'among'>;
}

export type Checked =
  | { readonly ok: true; readonly value: string | null }
  | { readonly ok: false; readonly why: string };

const no = (why: string): Checked => ({ ok: false, why });

/** As many of the allowed values as are named in a sentence. */
const mostNamed = 8;

/** The texts that a field may be; null where any may. */
export const allowedOf = ({ field, column }: Target): readonly string[] | null =>
  field.states ? field.states.map(({ value }) => value) : (column.among ?? null);

/** A value as somebody gave it, in canonical text; null is blank. A moment without a zone is one of the desk’s. */
export function checkValue(target: Target, given: string | null, zone: string): Checked {
  const { field, column } = target;
  if (given === null || given.trim() === '')
    return column.filled ? no('it cannot be blank') : { ok: true, value: null };
  const read = readAs(field.type, given, zone);
  if (!read.ok) {
    const isComma = isNumeric(field.type) && /^[+-]?[\d.\s]*,\d+$/.test(given.trim());
    return no(`${read.why}${isComma ? `; write decimals behind a ${decimalMark()}` : ''}`);
  }
  if (column.longest !== undefined && [...read.value].length > column.longest)
    return no(`it has ${[...read.value].length} characters, and ${column.longest} are the most`);
  const allowed = allowedOf(target);
  if (allowed && !allowed.includes(read.value))
    return no(`“${read.value}” is none of ${listWords(allowed.map(String), 'and', mostNamed)}`);
  return read;
}

function readAs(type: Field['type'], given: string, zone: string): Parsed {
  if (type !== 'instant') return parseValue(type, given);
  const read = parseValue(type, instantOfLocal(given.trim(), zone) ?? given);
  // A day and a time that were given apart, as in a form: what is wrong is one of them.
  const [, day = '', time = ''] = /^(.*)T([^TZ]*)$/.exec(given.trim()) ?? [];
  if (read.ok || day === '') return read;
  return parseValue('date', day).ok
    ? { ok: false, why: `“${time}” is not a time such as 06:40` }
    : { ok: false, why: `“${day}” is not a day such as 23 Nov 2026` };
}

/** What stands for itself in an action, whoever does it. */
export interface Doing {
  readonly clock: Clock;
  readonly person: { readonly name: string };
}

/** What a setting comes to without anybody being asked; undefined where somebody is. */
export function settledValue(
  to: Setting,
  { clock: { now, zone }, person }: Doing,
): string | null | undefined {
  switch (to.kind) {
    case 'value':
      return to.value;
    case 'now':
      return now.toISOString();
    case 'today':
      return dayOf(now, zone);
    case 'me':
      return person.name;
    case 'ask':
      return undefined;
  }
}

/** The values that an action sets, by field, with those that were given; or what is wrong with them, by field. */
export function valuesOf(
  action: Pick<Action, 'sets'>,
  given: Readonly<Record<string, string | null>>,
  targetOf: (field: string) => Target,
  doing: Doing,
):
  | { readonly ok: true; readonly values: Record<string, string | null> }
  | { readonly ok: false; readonly wrong: Record<string, string> } {
  const values: Record<string, string | null> = {};
  const wrong: Record<string, string> = {};
  for (const { field, to } of action.sets) {
    const settled = settledValue(to, doing);
    const value = settled === undefined ? (given[field] ?? null) : settled;
    const isMissing = to.kind === 'ask' && to.required === true && (value === null || value.trim() === '');
    const checked = isMissing ? no('it is needed') : checkValue(targetOf(field), value, doing.clock.zone);
    if (checked.ok) values[field] = checked.value;
    else wrong[field] = checked.why;
  }
  return Object.keys(wrong).length > 0 ? { ok: false, wrong } : { ok: true, values };
}
