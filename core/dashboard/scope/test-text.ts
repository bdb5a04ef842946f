import { mostValues } from '#core/ask/condition/limits.ts';
import type { Test } from '#core/ask/condition/schema.ts';
import type { FieldType } from '#core/value/field/types.ts';
import { isTemporal, parseValue } from '#core/value/field/value.ts';
import type { Period } from '#core/value/period/schema.ts';
import { type Unit, units } from '#core/value/period/units.ts';

/*
 * A test as it stands in an address. A value by itself means "is"; anything else begins with a tilde:
 *   ~any  ~blank  ~filled  ~not.V  ~contains.T  ~lacks.T  ~starts.T  ~ends.T
 *   ~atmost.N  ~atleast.N  ~below.N  ~above.N  ~between.A~B
 *   ~me.email  ~me.name
 *   ~last.28.day  ~next.7.day  ~this.week  ~ago.1.day  ~older.2.day  ~onward.1.day  ~past  ~future  ~dates.FROM~TO
 * A value that itself begins with a tilde doubles it. Several values repeat the parameter.
 */

export type ParsedTest = { ok: true; test: Test | null } | { ok: false; why: string };

const words = {
  contains: 'contains',
  lacks: 'lacks',
  startsWith: 'starts',
  endsWith: 'ends',
  atMost: 'atmost',
  atLeast: 'atleast',
  below: 'below',
  above: 'above',
} as const;

const plain = (value: string): string => (value.startsWith('~') ? `~${value}` : value);

/** A test as the texts that stand in an address, one for each value. Null, a clause taken off, is `~any`. */
export function testToTexts(test: Test | null): string[] {
  if (test === null) return ['~any'];
  switch (test.op) {
    case 'is':
      return test.values.map((value) => (value === null ? '~blank' : plain(value)));
    case 'isNot':
      return test.values.map((value) => (value === null ? '~filled' : `~not.${value}`));
    case 'same':
      return [test.value === null ? '~blank' : plain(test.value)];
    case 'blank':
    case 'filled':
      return [`~${test.op}`];
    case 'between':
      return [`~between.${test.from}~${test.to}`];
    case 'during':
      return [periodToText(test.period)];
    case 'contains':
    case 'lacks':
    case 'startsWith':
    case 'endsWith':
      return [`~${words[test.op]}.${test.text}`];
    case 'atMost':
    case 'atLeast':
    case 'below':
    case 'above':
      return [`~${words[test.op]}.${test.value}`];
    case 'against':
      if (test.is === 'same' && 'person' in test.to) return [`~me.${test.to.person}`];
      throw new TypeError('no address compares with another field: that is the analyst’s own');
  }
}

function periodToText(period: Period): string {
  switch (period.kind) {
    case 'last':
    case 'next':
    case 'ago':
    case 'onward':
      return `~${period.kind}.${period.count}.${period.unit}`;
    case 'olderThan':
      return `~older.${period.count}.${period.unit}`;
    case 'this':
      return `~this.${period.unit}`;
    case 'past':
    case 'future':
      return `~${period.kind}`;
    case 'dates':
      return `~dates.${period.from ?? ''}~${period.to ?? ''}`;
  }
}

const no = (why: string): ParsedTest => ({ ok: false, why });
const yes = (test: Test | null): ParsedTest => ({ ok: true, test });

/** Reads the texts of one parameter as a test of a field of this type. Never throws, whatever was typed. */
export function testFromTexts(texts: readonly string[], type: FieldType): ParsedTest {
  if (texts.length > mostValues) return no(`${texts.length} values are too many; ${mostValues} is the most`);
  const [first = ''] = texts;
  if (first.length > 2000) return no('the value is too long');
  if (first === '~any') return yes(null);
  const listed = listFromTexts(texts, type);
  if (listed) return listed;
  if (texts.length > 1) return no('only values can be given several times');
  const found = /^~([a-z]+)(?:\.([\s\S]*))?$/.exec(first);
  if (!found?.[1]) return no(`“${first}” is not understood`);
  const [, word, rest = ''] = found;
  for (const op of ['contains', 'lacks', 'startsWith', 'endsWith'] as const)
    if (words[op] === word) return yes({ op, text: rest.replaceAll('\0', '') });
  for (const op of ['atMost', 'atLeast', 'below', 'above'] as const)
    if (words[op] === word) {
      const value = parseValue(type, rest);
      return value.ok ? yes({ op, value: value.value }) : no(value.why);
    }
  if (word === 'between') {
    const [from, to] = rest.split('~').map((text) => parseValue(type, text));
    if (!from || !to) return no('“between” needs two values');
    if (!from.ok) return no(from.why);
    return to.ok ? yes({ op: 'between', from: from.value, to: to.value }) : no(to.why);
  }
  if (word === 'me' && (rest === 'email' || rest === 'name'))
    return type === 'text'
      ? yes({ op: 'against', is: 'same', to: { person: rest } })
      : no('only texts can say who somebody is');
  const period = periodFromText(word, rest);
  if (!period) return no(`“${first}” is not understood`);
  return isTemporal(type)
    ? yes({ op: 'during', period })
    : no('only dates and moments can be narrowed by a period');
}

/** A list of values, when every text is one; null when it is something else. */
function listFromTexts(texts: readonly string[], type: FieldType): ParsedTest | null {
  const is: (string | null)[] = [];
  const isNot: (string | null)[] = [];
  for (const text of texts) {
    if (text === '~blank') is.push(null);
    else if (text === '~filled') isNot.push(null);
    else {
      const negative = text.startsWith('~not.');
      if (text.startsWith('~') && !text.startsWith('~~') && !negative) return null;
      const value = parseValue(type, negative ? text.slice(5) : text.replace(/^~~/, '~'));
      if (!value.ok) return no(value.why);
      (negative ? isNot : is).push(value.value);
    }
  }
  if (is.length > 0 && isNot.length > 0) return no('“is” and “is not” cannot be mixed in one clause');
  return yes(isNot.length > 0 ? { op: 'isNot', values: isNot } : { op: 'is', values: is });
}

function periodFromText(word: string | undefined, rest: string): Period | null {
  const [first = '', second = ''] = rest.split('.');
  const count = /^\d{1,4}$/.test(first) ? Number(first) : -1;
  const unitOf = (text: string): Unit | null => units.find((unit) => unit === text) ?? null;
  const unit = unitOf(second);
  switch (word) {
    case 'past':
    case 'future':
      return { kind: word };
    case 'this': {
      const only = unitOf(first);
      return only && { kind: 'this', unit: only };
    }
    case 'last':
    case 'next':
    case 'ago':
      return unit && count > 0 ? { kind: word, count, unit } : null;
    case 'older':
      return unit && count > 0 ? { kind: 'olderThan', count, unit } : null;
    case 'onward':
      return unit && count >= 0 ? { kind: 'onward', count, unit } : null;
    case 'dates': {
      const ends = rest.split('~').map((text) => (text === '' ? null : parseValue('date', text)));
      if (ends.length !== 2 || ends.some((end) => end && !end.ok)) return null;
      const [from = null, to = null] = ends.map((end) => (end?.ok ? end.value : null));
      return { kind: 'dates', from, to };
    }
    default:
      return null;
  }
}
