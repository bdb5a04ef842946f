import type { Condition, Test } from '#core/ask/condition/schema.ts';
import type { Field } from '#core/value/field/field.ts';
import { labelOf } from '#core/value/field/value.ts';
import { formatCell, type ReadBy } from '#core/value/format/format.ts';
import { periodSentence } from './period.ts';

const most = 3;

/** "a, b and c"; more than `shown` are cut to "a, b and 4 more". */
export function listWords(items: readonly string[], last = 'and', shown = most): string {
  if (items.length > shown + 1)
    return `${items.slice(0, shown).join(', ')} ${last} ${items.length - shown} more`;
  if (items.length < 2) return items[0] ?? '';
  return `${items.slice(0, -1).join(', ')} ${last} ${items.at(-1)}`;
}

const clipped = (text: string): string => (text.length > 60 ? `${text.slice(0, 59)}…` : text);

/** A value as it stands in a sentence. */
export function valueWords(
  value: string | null,
  field: Pick<Field, 'type' | 'format' | 'states'>,
  by: ReadBy,
): string {
  return value === null ? 'blank' : clipped(formatCell(value, field, by));
}

/** What follows the field's name: "is weather or tide", "is at least 15", "contains “fog”". */
export function testWords(
  test: Test,
  field: Pick<Field, 'type' | 'format' | 'states'>,
  clock: ReadBy,
): string {
  const value = (text: string | null): string => valueWords(text, field, clock);
  const values = (texts: readonly (string | null)[], last: string): string =>
    listWords(texts.map(value), last);
  switch (test.op) {
    case 'is':
      return test.values.length === 0 ? 'is anything' : `is ${values(test.values, 'or')}`;
    case 'isNot':
      return test.values.length === 0 ? 'is anything' : `is not ${values(test.values, 'or')}`;
    case 'same':
      return `is ${value(test.value)}`;
    case 'blank':
      return 'is blank';
    case 'filled':
      return 'is not blank';
    case 'contains':
      return `contains “${clipped(test.text)}”`;
    case 'lacks':
      return `does not contain “${clipped(test.text)}”`;
    case 'startsWith':
      return `starts with “${clipped(test.text)}”`;
    case 'endsWith':
      return `ends with “${clipped(test.text)}”`;
    case 'atMost':
      return `is at most ${value(test.value)}`;
    case 'atLeast':
      return `is at least ${value(test.value)}`;
    case 'below':
      return `is below ${value(test.value)}`;
    case 'above':
      return `is above ${value(test.value)}`;
    case 'between':
      return `is between ${value(test.from)} and ${value(test.to)}`;
    case 'against':
      return againstWords(test, []);
    case 'during': {
      const { period } = test;
      const isOpen = period.kind === 'olderThan' || (period.kind === 'dates' && !(period.from && period.to));
      return `is ${isOpen ? '' : 'in '}${periodSentence(period, clock)}`;
    }
  }
}

export const comparisonWords = {
  same: 'is the same as',
  differs: 'is not the same as',
  atMost: 'is at most',
  atLeast: 'is at least',
  below: 'is below',
  above: 'is above',
} as const;

/** What is known of who is signed in, by the name under which it is. */
export const theirsWords = (name: string): string => `among their ${name.toLowerCase()}`;

export const personWords = {
  name: 'the name of who is signed in',
  email: 'the e-mail of who is signed in',
} as const;

function againstWords({ is, to }: Extract<Test, { op: 'against' }>, fields: readonly Field[]): string {
  const other =
    'field' in to
      ? labelOf(fields.find(({ name }) => name === to.field) ?? { name: to.field }).toLowerCase()
      : 'input' in to
        ? `the input ${to.input}`
        : 'theirs' in to
          ? theirsWords(to.theirs)
          : personWords[to.person];
  if ('theirs' in to) return is === 'differs' ? `is not ${other}` : `is ${other}`;
  return `${comparisonWords[is]} ${other}`;
}

/** A condition as a clause: "cause is weather and delay is at least 15". */
export function conditionWords(
  condition: Condition,
  fields: readonly Field[],
  clock: ReadBy,
  inside = false,
): string {
  const group = (parts: readonly Condition[], word: string): string => {
    const joined = parts.map((part) => conditionWords(part, fields, clock, true)).join(` ${word} `);
    return inside && parts.length > 1 ? `(${joined})` : joined;
  };
  if ('all' in condition) return condition.all.length === 0 ? 'anything' : group(condition.all, 'and');
  if ('any' in condition) return condition.any.length === 0 ? 'anything' : group(condition.any, 'or');
  if ('none' in condition)
    return condition.none.length === 0 ? 'anything' : `not (${group(condition.none, 'or')})`;
  const field = fields.find(({ name }) => name === condition.field);
  const label = field ? labelOf(field) : condition.field;
  if (condition.test.op === 'against')
    return `${label.toLowerCase()} ${againstWords(condition.test, fields)}`;
  return `${label.toLowerCase()} ${testWords(condition.test, field ?? { type: 'text' }, clock)}`;
}
