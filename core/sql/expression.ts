import { castable, commonType, type ExpressionType, fieldNamed, typing } from '#core/ask/expression/check.ts';
import { functionNamed } from '#core/ask/expression/functions.ts';
import type { Expression } from '#core/ask/expression/parse.ts';
import type { Dialect } from '#core/sql/dialect/dialect.ts';
import type { Field } from '#core/value/field/field.ts';
import type { FieldType } from '#core/value/field/types.ts';
import { isTemporal } from '#core/value/field/value.ts';
import type { FieldSql } from './condition.ts';
import { convertSql } from './convert.ts';
import { bind, comma, join, type Sql, sql } from './fragment.ts';

export interface ExpressionContext {
  readonly fields: readonly Field[];
  readonly fieldSql: FieldSql;
  readonly dialect: Dialect;
  readonly zone: string;
  /** ISO 8601. */
  readonly now: string;
}

type Of<K extends Expression['kind']> = Extract<Expression, { kind: K }>;

/** A whole number that is written out. */
const wholeLiteral = (part: Expression): string | undefined =>
  part.kind === 'literal' && part.type === 'integer' && part.value !== null ? part.value : undefined;

/** A checked expression as SQL. Values are bound, names quoted, and nothing is called but what `functions.ts` lists. */
export function expressionSql(expression: Expression, context: ExpressionContext): Sql {
  const { dialect, fieldSql, fields, zone, now } = context;
  const { scalar } = dialect;
  const typeOf = typing(fields);
  const blank = (type: ExpressionType): Sql => scalar.blank(type as FieldType);

  /** An expression as SQL of a type that it can be: numbers widen, and a bare NULL takes the type that is wanted. */
  const as = (part: Expression, type: ExpressionType): Sql => {
    const own = typeOf(part);
    if (own === 'blank')
      return part.kind === 'literal' ? blank(type === 'blank' ? 'text' : type) : write(part);
    const written = write(part);
    // Decimals of different shapes are not brought together before they have one: an engine may round them.
    if (type === 'decimal' && (own === 'integer' || own === 'decimal')) return scalar.exact(written, own);
    if (own === 'date' && type === 'instant') return convertSql(written, own, type, context);
    if (own !== 'float' && type === 'float') return convertSql(written, own as FieldType, 'float', context);
    return written;
  };
  const common = (list: readonly Expression[]): ExpressionType =>
    list.reduce<ExpressionType>((type, part) => commonType(type, typeOf(part)) ?? type, 'blank');
  const alike = (list: readonly Expression[]): Sql[] => {
    const type = common(list);
    return list.map((part) => as(part, type));
  };
  const compare = (list: readonly Expression[]): Sql[] =>
    common(list) === 'text' ? alike(list).map((part) => scalar.byCode(part)) : alike(list);

  const write = (part: Expression): Sql => {
    switch (part.kind) {
      case 'field': {
        const field = fieldNamed(part.name, fields);
        if (!field) throw new RangeError(`no field “${part.name}”`);
        return fieldSql(field.name).value;
      }
      case 'literal':
        return part.type === 'blank' ? blank('text') : bind(part.type, part.value);
      case 'interval':
        throw new RangeError('an interval by itself');
      case 'now':
        return part.of === 'instant' ? bind('instant', now) : today();
      case 'negative':
        return sql`(-${write(part.of)})`;
      case 'not':
        return sql`(NOT ${as(part.of, 'boolean')})`;
      case 'blank':
        return part.not ? sql`(${write(part.of)} IS NOT NULL)` : sql`(${write(part.of)} IS NULL)`;
      case 'differs': {
        const [a, b] = alike([part.left, part.right]) as [Sql, Sql];
        return part.not ? sql`(${a} IS NOT DISTINCT FROM ${b})` : sql`(${a} IS DISTINCT FROM ${b})`;
      }
      case 'between': {
        const [of, low, high] = compare([part.of, part.low, part.high]) as [Sql, Sql, Sql];
        return sql`(${part.not ? sql`NOT ` : sql``}(${of} >= ${low} AND ${of} <= ${high}))`;
      }
      case 'in': {
        const [of, ...list] = alike([part.of, ...part.list]) as [Sql, ...Sql[]];
        return sql`(${of} ${part.not ? sql`NOT IN` : sql`IN`} (${join(list, comma)}))`;
      }
      case 'like': {
        const matched = scalar.likePattern(as(part.of, 'text'), bind('text', part.pattern));
        return part.not ? sql`(NOT (${matched}))` : sql`(${matched})`;
      }
      case 'case': {
        const type = typeOf(part);
        const when = part.when.map(
          ({ is, result }) => sql` WHEN ${as(is, 'boolean')} THEN ${as(result, type)}`,
        );
        const otherwise = part.otherwise ? sql` ELSE ${as(part.otherwise, type)}` : sql``;
        return sql`(CASE${join(when, sql``)}${otherwise} END)`;
      }
      case 'cast': {
        const from = typeOf(part.of);
        if (from === 'blank' || !castable(from, part.to)) return blank(part.to);
        return convertSql(write(part.of), from as FieldType, part.to, context);
      }
      case 'extract': {
        const { of } = part;
        if (part.part === 'epoch')
          return of.kind === 'binary' ? scalar.seconds(write(of.left), write(of.right)) : blank('decimal');
        return scalar.part(part.part, write(of), typeOf(of) as FieldType, zone);
      }
      case 'binary':
        return binary(part);
      case 'call':
        return call(part);
    }
  };

  const today = (): Sql => dialect.periodStart(bind('instant', now), 'instant', 'day', zone);

  const binary = (part: Of<'binary'>): Sql => {
    const { op, left, right } = part;
    switch (op) {
      case 'and':
        return sql`(${as(left, 'boolean')} AND ${as(right, 'boolean')})`;
      case 'or':
        return sql`(${as(left, 'boolean')} OR ${as(right, 'boolean')})`;
      case '||':
        return sql`(${as(left, 'text')} || ${as(right, 'text')})`;
      case '=':
      case '<>': {
        const [a, b] = alike([left, right]) as [Sql, Sql];
        return op === '=' ? sql`(${a} = ${b})` : sql`(${a} <> ${b})`;
      }
      case '<':
      case '<=':
      case '>':
      case '>=': {
        const [a, b] = compare([left, right]) as [Sql, Sql];
        return sql`(${a} ${{ '<': sql`<`, '<=': sql`<=`, '>': sql`>`, '>=': sql`>=` }[op]} ${b})`;
      }
    }
    const from = typeOf(left);
    if (isTemporal(from as FieldType)) return moved(part, from as 'date' | 'instant');
    const type = commonType(from, typeOf(right)) ?? 'decimal';
    const [a, b] =
      type === 'float'
        ? ([as(left, 'float'), as(right, 'float')] as const)
        : ([as(left, type), as(right, type)] as const);
    switch (op) {
      case '+':
        return sql`(${a} + ${b})`;
      case '-':
        return sql`(${a} - ${b})`;
      case '*':
        return type === 'decimal' ? scalar.product(a, b) : sql`(${a} * ${b})`;
      case '%':
        return sql`(${a} % nullif(${b}, ${bind(type as FieldType, '0')}))`;
      case '/':
        return type === 'float'
          ? sql`(${a} / nullif(${b}, ${bind('float', '0')}))`
          : dialect.quotient(a, b, type === 'integer' ? { by: wholeLiteral(right) } : undefined);
    }
  };

  const moved = ({ op, left, right }: Of<'binary'>, type: 'date' | 'instant'): Sql => {
    if (right.kind === 'interval') {
      const amount = op === '-' ? String(-Number(right.amount)) : right.amount;
      return scalar.moved(write(left), type, amount, right.unit);
    }
    if (typeOf(right) === type) return scalar.days(write(left), write(right));
    return sql`(${write(left)} ${op === '-' ? sql`-` : sql`+`} ${scalar.dayCount(write(right))})`;
  };

  const call = (part: Of<'call'>): Sql => {
    const { name } = functionNamed(part);
    const args = (): Sql[] => part.args.map((arg) => as(arg, typeOf(arg) === 'blank' ? 'text' : typeOf(arg)));
    const one = (): Sql => as(part.args[0] as Expression, typeOf(part.args[0] as Expression));
    const type = part.args[0] ? typeOf(part.args[0]) : 'blank';
    const whole = (at: number): Sql => scalar.place(as(part.args[at] as Expression, 'integer'));
    switch (name) {
      case 'coalesce':
        return sql`coalesce(${join(alike(part.args), comma)})`;
      case 'nullif': {
        const [a, b] = alike(part.args) as [Sql, Sql];
        return sql`nullif(${a}, ${b})`;
      }
      case 'greatest':
      case 'least':
        return sql`${name === 'greatest' ? sql`greatest` : sql`least`}(${join(compare(part.args), comma)})`;
      case 'abs':
        return sql`abs(${one()})`;
      case 'round': {
        if (type === 'integer' || type === 'blank') return one();
        const places = part.args[1];
        return scalar.rounded(
          scalar.exact(one(), type as FieldType),
          places?.kind === 'literal' ? Number(places.value) : 0,
        );
      }
      case 'floor':
      case 'ceiling':
        if (type === 'integer' || type === 'blank') return one();
        return scalar.fitted(
          sql`${name === 'floor' ? sql`floor` : sql`ceil`}(${scalar.exact(one(), type as FieldType)})`,
        );
      case 'upper':
        return sql`upper(${one()})`;
      case 'lower':
        return sql`lower(${one()})`;
      case 'trim':
        return sql`trim(${one()})`;
      case 'char_length':
        return scalar.length(one());
      case 'position': {
        const [find, inside] = args() as [Sql, Sql];
        return scalar.position(inside, find);
      }
      case 'substring': {
        // Counted from 1; what lies before the text is passed over, as the standard has it.
        const from = whole(1);
        const text = as(part.args[0] as Expression, 'text');
        if (part.args.length === 2) return sql`substr(${text}, greatest(${from}, 1))`;
        return sql`substr(${text}, greatest(${from}, 1), greatest(${whole(2)} - greatest(1 - ${from}, 0), 0))`;
      }
      case 'replace':
        return sql`CASE WHEN ${args()[1] ?? sql`NULL`} = '' THEN ${args()[0] ?? sql`NULL`} ELSE replace(${join(args(), comma)}) END`;
      case 'left':
        return sql`substr(${as(part.args[0] as Expression, 'text')}, 1, greatest(${whole(1)}, 0))`;
      case 'right': {
        const text = as(part.args[0] as Expression, 'text');
        const length = scalar.place(scalar.length(text));
        return sql`substr(${text}, greatest(${length} - greatest(${whole(1)}, 0), 0) + 1)`;
      }
      default:
        throw new RangeError(`no function “${name}”`);
    }
  };
  return write(expression);
}
