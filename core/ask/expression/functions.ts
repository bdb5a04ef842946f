import type { FieldType } from '#core/value/field/types.ts';
import { isNumeric } from '#core/value/field/value.ts';
import type { ExpressionType, TypeOf } from './check.ts';
import type { Expression } from './parse.ts';
import { ExpressionError } from './tokens.ts';

type Call = Extract<Expression, { kind: 'call' }>;

interface Tools {
  readonly typeOf: TypeOf;
  readonly must: (part: Expression, fits: (type: ExpressionType) => boolean, wanted: string) => void;
  readonly alike: (parts: readonly Expression[], what: string) => ExpressionType;
}

export interface ScalarFunction {
  readonly name: string;
  /** As it is written: `ROUND(number, places)`. */
  readonly written: string;
  /** What it does, in a sentence. */
  readonly words: string;
  readonly least: number;
  readonly most: number;
  readonly typed: (call: Call, tools: Tools) => ExpressionType;
}

const isText = (type: ExpressionType): boolean => type === 'text' || type === 'blank';
const isNumber = (type: ExpressionType): boolean => type === 'blank' || isNumeric(type as FieldType);
const isWhole = (type: ExpressionType): boolean => type === 'integer' || type === 'blank';

const textsTo =
  (result: ExpressionType) =>
  ({ args }: Call, { must }: Tools): ExpressionType => {
    for (const arg of args) must(arg, isText, 'text');
    return result;
  };

const textThenWhole = ({ args: [text, ...whole] }: Call, { must }: Tools): ExpressionType => {
  if (text) must(text, isText, 'text');
  for (const each of whole) must(each, isWhole, 'a whole number');
  return 'text';
};

const alikeTyped = ({ args }: Call, { alike, must }: Tools): ExpressionType => {
  const type = alike(args, 'what is chosen from');
  const [first] = args;
  if (first && type === 'interval') must(first, () => false, 'a value');
  return type;
};

const ordered = (call: Call, tools: Tools): ExpressionType => {
  const type = alikeTyped(call, tools);
  const [first] = call.args;
  if (first && (type === 'nested' || type === 'boolean' || type === 'stretch'))
    tools.must(first, () => false, 'something with an order');
  return type;
};

const numberTo =
  (result: (type: ExpressionType) => ExpressionType) =>
  ({ args: [of] }: Call, { must, typeOf }: Tools): ExpressionType => {
    if (!of) return 'blank';
    must(of, isNumber, 'a number');
    return result(typeOf(of));
  };

const roundTyped = ({ args: [of, places] }: Call, { must, typeOf }: Tools): ExpressionType => {
  if (!of) return 'blank';
  must(of, isNumber, 'a number');
  if (places && !(places.kind === 'literal' && places.type === 'integer' && Number(places.value) <= 12))
    throw new ExpressionError('the places are written as a number from 0 to 12', places.at);
  return typeOf(of) === 'integer' ? 'integer' : 'decimal';
};

/** Every function that an expression can call, and nothing else: each gives the same on both engines. */
export const functions: readonly ScalarFunction[] = [
  {
    name: 'coalesce',
    written: 'COALESCE(a, b, …)',
    words: 'The first of them that is not blank.',
    least: 1,
    most: 20,
    typed: alikeTyped,
  },
  {
    name: 'nullif',
    written: 'NULLIF(a, b)',
    words: 'Blank where both are the same, else the first.',
    least: 2,
    most: 2,
    typed: ordered,
  },
  {
    name: 'greatest',
    written: 'GREATEST(a, b, …)',
    words: 'The greatest of them; blanks are passed over.',
    least: 1,
    most: 20,
    typed: ordered,
  },
  {
    name: 'least',
    written: 'LEAST(a, b, …)',
    words: 'The least of them; blanks are passed over.',
    least: 1,
    most: 20,
    typed: ordered,
  },
  {
    name: 'abs',
    written: 'ABS(number)',
    words: 'The number without its sign.',
    least: 1,
    most: 1,
    typed: numberTo((type) => type),
  },
  {
    name: 'round',
    written: 'ROUND(number, places)',
    words: 'Rounded, halves away from zero.',
    least: 1,
    most: 2,
    typed: roundTyped,
  },
  {
    name: 'floor',
    written: 'FLOOR(number)',
    words: 'The whole number at or below.',
    least: 1,
    most: 1,
    typed: numberTo(() => 'integer'),
  },
  {
    name: 'ceiling',
    written: 'CEILING(number)',
    words: 'The whole number at or above.',
    least: 1,
    most: 1,
    typed: numberTo(() => 'integer'),
  },
  { name: 'upper', written: 'UPPER(text)', words: 'In capitals.', least: 1, most: 1, typed: textsTo('text') },
  {
    name: 'lower',
    written: 'LOWER(text)',
    words: 'In small letters.',
    least: 1,
    most: 1,
    typed: textsTo('text'),
  },
  {
    name: 'trim',
    written: 'TRIM(text)',
    words: 'Without spaces at both ends.',
    least: 1,
    most: 1,
    typed: textsTo('text'),
  },
  {
    name: 'char_length',
    written: 'CHAR_LENGTH(text)',
    words: 'How many characters it has.',
    least: 1,
    most: 1,
    typed: textsTo('integer'),
  },
  {
    name: 'position',
    written: 'POSITION(part IN text)',
    words: 'Where the part begins, counted from 1; 0 where it is not.',
    least: 2,
    most: 2,
    typed: textsTo('integer'),
  },
  {
    name: 'substring',
    written: 'SUBSTRING(text FROM 1 FOR 3)',
    words: 'The characters from a place on, as many as said.',
    least: 2,
    most: 3,
    typed: textThenWhole,
  },
  {
    name: 'replace',
    written: 'REPLACE(text, part, by)',
    words: 'With every such part written otherwise.',
    least: 3,
    most: 3,
    typed: textsTo('text'),
  },
  {
    name: 'left',
    written: 'LEFT(text, 3)',
    words: 'The first characters.',
    least: 2,
    most: 2,
    typed: textThenWhole,
  },
  {
    name: 'right',
    written: 'RIGHT(text, 3)',
    words: 'The last characters.',
    least: 2,
    most: 2,
    typed: textThenWhole,
  },
];

const byName = new Map(functions.map((each) => [each.name, each]));
const otherNames: Readonly<Record<string, string>> = {
  ceil: 'ceiling',
  character_length: 'char_length',
  length: 'char_length',
  substr: 'substring',
};

/** The function that is called. Throws an {@link ExpressionError} where there is none, or with other arguments. */
export function functionNamed({ name, args, at }: Call): ScalarFunction {
  const found = byName.get(otherNames[name] ?? name);
  if (!found) throw new ExpressionError(`there is no function “${name}”`, at);
  if (args.length < found.least || args.length > found.most)
    throw new ExpressionError(`it is written ${found.written}`, at);
  return found;
}

/** What is explained in place besides the functions: the forms that SQL has of its own. */
export const forms: readonly { readonly written: string; readonly words: string }[] = [
  { written: 'CASE WHEN … THEN … ELSE … END', words: 'The first result whose condition holds.' },
  {
    written: 'CAST(a AS integer)',
    words:
      'As another type; blank where it cannot be read as that. Types: text, integer, numeric, boolean, date, timestamp.',
  },
  { written: 'a || b', words: 'Two texts put together.' },
  { written: 'a IS NULL, a IS NOT NULL', words: 'Whether it is blank.' },
  { written: "a IN ('x', 'y'), a BETWEEN 1 AND 5, a LIKE 'NRK%'", words: 'Conditions.' },
  {
    written: 'EXTRACT(HOUR FROM moment)',
    words:
      'A part of a date or moment, in the desk’s time zone: YEAR, QUARTER, MONTH, WEEK, DAY, ISODOW, HOUR, MINUTE, SECOND.',
  },
  { written: 'EXTRACT(EPOCH FROM later - earlier)', words: 'The seconds between two moments.' },
  { written: "moment + INTERVAL '3' HOUR", words: 'Later or earlier by calendar time.' },
  { written: 'CURRENT_DATE, CURRENT_TIMESTAMP', words: 'Today, and this moment.' },
  { written: "DATE '2026-11-23'", words: 'A date.' },
];
