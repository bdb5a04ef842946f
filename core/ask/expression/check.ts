import type { Field } from '#core/value/field/field.ts';
import type { FieldType } from '#core/value/field/types.ts';
import { isNumeric, isTemporal, parseValue } from '#core/value/field/value.ts';
import { functionNamed } from './functions.ts';
import { type Expression, parseExpression, reservedWords } from './parse.ts';
import { type At, ExpressionError } from './tokens.ts';

/** `blank` is NULL by itself; `interval` a length of calendar time; `stretch` the time between two instants. */
export type ExpressionType = FieldType | 'blank' | 'interval' | 'stretch';

/** The type of an expression. Throws an {@link ExpressionError} where a part does not fit. */
export type TypeOf = (expression: Expression) => ExpressionType;

const article = (type: ExpressionType): string =>
  ({
    text: 'text',
    integer: 'a whole number',
    decimal: 'a number',
    float: 'an approximate number',
    boolean: 'yes or no',
    date: 'a date',
    instant: 'a moment',
    nested: 'a list or object',
    blank: 'blank',
    interval: 'an interval',
    stretch: 'a stretch of time',
  })[type];

const isNumber = (type: ExpressionType): boolean => type === 'blank' || isNumeric(type as FieldType);

/** The type that holds both of two, or null. A day among moments is its first instant in the zone. */
export function commonType(a: ExpressionType, b: ExpressionType): ExpressionType | null {
  if (a === b) return a;
  if (a === 'blank') return b;
  if (b === 'blank') return a;
  if (isTemporal(a as FieldType) && isTemporal(b as FieldType)) return 'instant';
  if (!isNumeric(a as FieldType) || !isNumeric(b as FieldType)) return null;
  return a === 'float' || b === 'float' ? 'float' : 'decimal';
}

const fail = (why: string, at: At): never => {
  throw new ExpressionError(why, at);
};

/** A function that types expressions over fields; each expression is typed once. */
export function typing(fields: readonly Field[]): TypeOf {
  const known = new WeakMap<Expression, ExpressionType>();
  const typeOf: TypeOf = (expression) => {
    const found = known.get(expression) ?? typed(expression);
    known.set(expression, found);
    return found;
  };
  const alike = (parts: readonly Expression[], what: string): ExpressionType => {
    let type: ExpressionType = 'blank';
    for (const part of parts) {
      const own = typeOf(part);
      if (own === 'stretch')
        fail('the time between two moments is taken as EXTRACT(EPOCH FROM …), in seconds', part.at);
      type =
        commonType(type, own) ??
        fail(`${what} must be of one type: this is ${article(own)}, another is ${article(type)}`, part.at);
    }
    return type;
  };
  const must = (part: Expression, fits: (type: ExpressionType) => boolean, wanted: string): void => {
    const type = typeOf(part);
    if (!fits(type)) fail(`${wanted} is wanted here, and this is ${article(type)}`, part.at);
  };
  const condition = (part: Expression): void =>
    must(part, (type) => type === 'boolean' || type === 'blank', 'a condition');
  const comparable = (parts: readonly Expression[]): void => {
    const type = alike(parts, 'what is compared');
    if (type === 'nested' || type === 'interval')
      fail(`${article(type)} cannot be compared`, parts[0]?.at ?? { from: 0, to: 0 });
  };
  const typed = (expression: Expression): ExpressionType => {
    switch (expression.kind) {
      case 'field': {
        const field = fieldNamed(expression.name, fields);
        return field ? field.type : fail(`there is no field “${expression.name}”`, expression.at);
      }
      case 'literal':
        return literalType(expression);
      case 'interval':
        return 'interval';
      case 'now':
        return expression.of;
      case 'negative':
        must(expression.of, isNumber, 'a number');
        return typeOf(expression.of);
      case 'not':
        condition(expression.of);
        return 'boolean';
      case 'blank':
        typeOf(expression.of);
        return 'boolean';
      case 'differs':
        comparable([expression.left, expression.right]);
        return 'boolean';
      case 'between':
        comparable([expression.of, expression.low, expression.high]);
        return 'boolean';
      case 'in':
        comparable([expression.of, ...expression.list]);
        return 'boolean';
      case 'like':
        must(expression.of, (type) => type === 'text' || type === 'blank', 'text');
        return 'boolean';
      case 'case': {
        for (const { is } of expression.when) condition(is);
        const results = [
          ...expression.when.map(({ result }) => result),
          ...(expression.otherwise ? [expression.otherwise] : []),
        ];
        return alike(results, 'the results of CASE');
      }
      case 'cast': {
        const from = typeOf(expression.of);
        if (!castable(from, expression.to))
          fail(`${article(from)} cannot be made ${article(expression.to)}`, expression.at);
        return expression.to;
      }
      case 'extract': {
        const of = typeOf(expression.of);
        if (of === 'stretch') {
          if (expression.of.kind !== 'binary')
            fail('EPOCH is of a later moment - an earlier one', expression.at);
          if (expression.part !== 'epoch')
            fail(
              'of the time between two moments, EPOCH is its seconds; nothing else can be taken',
              expression.at,
            );
          return 'decimal';
        }
        must(expression.of, (type) => isTemporal(type as FieldType), 'a date or moment');
        if (expression.part === 'epoch')
          fail(
            'EPOCH is the seconds between two moments: EXTRACT(EPOCH FROM later - earlier)',
            expression.at,
          );
        if (of === 'date' && ['hour', 'minute', 'second'].includes(expression.part))
          fail(`a date has no ${expression.part}`, expression.at);
        return 'integer';
      }
      case 'call':
        return functionNamed(expression).typed(expression, { typeOf, must, alike });
      case 'binary':
        return binaryType(expression, { typeOf, condition, comparable, must });
    }
  };
  return typeOf;
}

function literalType(literal: Extract<Expression, { kind: 'literal' }>): ExpressionType {
  const { type, value, at } = literal;
  if (value === null || type === 'blank') return 'blank';
  const read = parseValue(type, value);
  if (!read.ok) fail(read.why, at);
  return type;
}

interface Tools {
  readonly typeOf: TypeOf;
  readonly condition: (part: Expression) => void;
  readonly comparable: (parts: readonly Expression[]) => void;
  readonly must: (part: Expression, fits: (type: ExpressionType) => boolean, wanted: string) => void;
}

function binaryType(
  { op, left, right, at }: Extract<Expression, { kind: 'binary' }>,
  { typeOf, condition, comparable, must }: Tools,
): ExpressionType {
  switch (op) {
    case 'and':
    case 'or':
      condition(left);
      condition(right);
      return 'boolean';
    case '||':
      for (const part of [left, right])
        must(part, (type) => type === 'text' || type === 'blank', 'text (CAST makes it so)');
      return 'text';
    case '=':
    case '<>':
    case '<':
    case '<=':
    case '>':
    case '>=':
      comparable([left, right]);
      if (typeOf(left) === 'boolean' && op !== '=' && op !== '<>') fail('yes and no have no order', at);
      return 'boolean';
  }
  const [a, b] = [typeOf(left), typeOf(right)];
  if (isTemporal(a as FieldType) && (op === '+' || op === '-')) {
    if (b === 'interval') {
      const isShort = right.kind === 'interval' && ['hour', 'minute', 'second'].includes(right.unit);
      if (a === 'date' && isShort) fail('a date has no hours; add whole days', right.at);
      return a;
    }
    if (a === 'date' && b === 'integer') return 'date';
    if (op === '-' && a === b) return a === 'date' ? 'integer' : 'stretch';
  }
  if (a === 'interval' && op === '+' && isTemporal(b as FieldType))
    fail('write the moment first: a moment + an interval', at);
  for (const part of [left, right]) must(part, isNumber, 'a number');
  const both = commonType(a, b) ?? 'decimal';
  if (op === '%' && both === 'float') fail('a remainder is of exact numbers', at);
  return op === '/' && both !== 'float' ? 'decimal' : both;
}

const casts: Readonly<Record<FieldType, readonly FieldType[]>> = {
  text: ['text', 'integer', 'decimal', 'boolean', 'date', 'instant'],
  integer: ['text', 'integer', 'decimal', 'float'],
  decimal: ['text', 'integer', 'decimal', 'float'],
  float: ['float', 'decimal', 'integer'],
  boolean: ['text', 'boolean'],
  date: ['text', 'date'],
  instant: ['text', 'date', 'instant'],
  nested: ['text'],
};

/** Whether values of one type can be made another. */
export const castable = (from: ExpressionType, to: FieldType): boolean =>
  from === 'blank' || (from !== 'interval' && from !== 'stretch' && casts[from].includes(to));

/** A field by the name that an expression has for it: as it is written, else without regard to case where only one fits. */
export function fieldNamed(name: string, fields: readonly Field[]): Field | undefined {
  const exact = fields.find((field) => field.name === name);
  if (exact) return exact;
  const alike = fields.filter((field) => field.name.toLowerCase() === name.toLowerCase());
  return alike.length === 1 ? alike[0] : undefined;
}

export type Checked =
  | {
      readonly ok: true;
      readonly expression: Expression;
      readonly type: FieldType;
      readonly fields: readonly string[];
      /** A day stands beside a moment in it, and is taken as its first instant in the zone. */
      readonly takesDays: boolean;
    }
  | { readonly ok: false; readonly why: string; readonly at: At };

/** Reads and types an expression over fields: its type and the fields it reads, or what is wrong and where. */
export function checkExpression(text: string, fields: readonly Field[]): Checked {
  try {
    const expression = parseExpression(text);
    const typeOf = typing(fields);
    const type = typeOf(expression);
    if (type === 'interval' || type === 'stretch')
      throw new ExpressionError(
        type === 'interval'
          ? 'an interval is added to a date or moment'
          : 'the time between two moments is taken as EXTRACT(EPOCH FROM …), in seconds',
        expression.at,
      );
    return {
      ok: true,
      expression,
      type: type === 'blank' ? 'text' : type,
      fields: [...new Set(fieldNames(expression, fields))],
      takesDays: takesDays(expression, typeOf),
    };
  } catch (thrown) {
    if (thrown instanceof ExpressionError) return { ok: false, why: thrown.why, at: thrown.at };
    throw thrown;
  }
}

/** Whether a day stands somewhere beside a moment, so that it is taken as its first instant. */
function takesDays(expression: Expression, typeOf: TypeOf): boolean {
  const parts = childrenOf(expression);
  const types = new Set(
    expression.kind === 'binary' && '+-'.includes(expression.op) ? [] : parts.map(typeOf),
  );
  return (types.has('date') && types.has('instant')) || parts.some((part) => takesDays(part, typeOf));
}

/** The fields that an expression reads, by their own names. */
function fieldNames(expression: Expression, fields: readonly Field[]): string[] {
  if (expression.kind === 'field') {
    const field = fieldNamed(expression.name, fields);
    return field ? [field.name] : [];
  }
  return childrenOf(expression).flatMap((part) => fieldNames(part, fields));
}

/** The names of fields in an expression and where they stand, in no order. */
export const namesIn = (expression: Expression): { readonly name: string; readonly at: At }[] =>
  expression.kind === 'field'
    ? [{ name: expression.name, at: expression.at }]
    : childrenOf(expression).flatMap(namesIn);

function childrenOf(expression: Expression): readonly Expression[] {
  switch (expression.kind) {
    case 'field':
    case 'literal':
    case 'interval':
    case 'now':
      return [];
    case 'negative':
    case 'not':
    case 'blank':
    case 'like':
    case 'cast':
    case 'extract':
      return [expression.of];
    case 'binary':
    case 'differs':
      return [expression.left, expression.right];
    case 'between':
      return [expression.of, expression.low, expression.high];
    case 'in':
      return [expression.of, ...expression.list];
    case 'case':
      return [
        ...expression.when.flatMap(({ is, result }) => [is, result]),
        ...(expression.otherwise ? [expression.otherwise] : []),
      ];
    case 'call':
      return expression.args;
  }
}

/** A field's name as an expression has it. */
export const writtenName = (name: string): string =>
  /^[\p{L}_][\p{L}\p{N}_]*$/u.test(name) && !isReserved(name) ? name : `"${name.replaceAll('"', '""')}"`;

const isReserved = (name: string): boolean => reservedWords.has(name.toLowerCase());
