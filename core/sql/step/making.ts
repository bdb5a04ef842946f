import { checkExpression } from '#core/ask/expression/check.ts';
import type { Making } from '#core/dataset/step/schema.ts';
import { linkParts } from '#core/dataset/step/template.ts';
import type { FieldType } from '#core/value/field/types.ts';
import { filterSql } from '../condition.ts';
import { expressionSql } from '../expression.ts';
import { bind, comma, join, ordinal, type Sql, sql } from '../fragment.ts';
import type { Tools } from './tools.ts';

/** The value of a field that is made. */
export function makingSql(making: Making, tools: Tools): Sql {
  const { dialect, zone, now, before, field, filters } = tools;
  const { scalar } = dialect;
  const text = (name: string): Sql => {
    const { value, field: of } = field(name);
    return of.type === 'text' || of.type === 'nested' ? value : scalar.text(value, of.type);
  };
  switch (making.kind) {
    case 'expression': {
      const checked = checkExpression(making.text, before);
      if (!checked.ok) throw new RangeError(checked.why);
      return expressionSql(checked.expression, { fields: before, fieldSql: field, dialect, zone, now });
    }
    case 'join':
      return sql`nullif(concat_ws(${bind('text', making.between)}, ${join(making.fields.map(text), comma)}), '')`;
    case 'split':
      return sql`nullif(split_part(${text(making.field)}, ${bind('text', making.at)}, ${ordinal(making.part)}), '')`;
    case 'extract':
      return scalar.found(text(making.field), making.pattern);
    case 'between':
      return betweenSql(making, tools);
    case 'bands': {
      const { value, field: of } = field(making.field);
      const type: FieldType = of.type === 'float' ? 'float' : 'decimal';
      const when = making.bands.map(
        ({ below, word }) => sql` WHEN ${value} < ${bind(type, below)} THEN ${bind('text', word)}`,
      );
      return sql`(CASE WHEN ${value} IS NULL THEN NULL${join(when, sql``)} ELSE ${bind('text', making.rest)} END)`;
    }
    case 'bins': {
      const { value, field: of } = field(making.field);
      if (of.type === 'integer' && wholeSize.test(making.size))
        return wholeBin(value, bind('integer', making.size));
      const size = bind('decimal', making.size);
      const number = of.type === 'integer' ? value : scalar.exact(value, of.type);
      const low = scalar.product(sql`floor(${dialect.quotient(number, size)})`, size);
      return of.type === 'integer' && /^\d+$/.test(making.size) ? scalar.fitted(low) : low;
    }
    case 'choose': {
      const when = making.when.map(
        ({ word }, at) =>
          sql` WHEN ${filterSql(filters[at] ?? { all: [] }, field, dialect)} THEN ${bind('text', word)}`,
      );
      return sql`(CASE${join(when, sql``)} ELSE ${bind('text', making.otherwise)} END)`;
    }
    case 'link':
      return linkSql(making.template, text, scalar.encoded);
    case 'period': {
      const { value, field: of } = field(making.field);
      return dialect.periodStart(value, of.type, making.unit, zone);
    }
    case 'shift': {
      const { value } = field(making.field);
      const moved = scalar.moved(value, 'instant', String(making.minutes), 'minute');
      const [filter] = filters;
      return filter
        ? sql`(CASE WHEN ${filterSql(filter, field, dialect)} THEN ${moved} ELSE ${value} END)`
        : moved;
    }
    case 'clock':
      return scalar.fromClock(field(making.field).value, making.zone);
  }
}

/** Texts that are made so that none is empty: where nothing is found they are blank. */
export function isNeverEmpty(making: Making): boolean {
  switch (making.kind) {
    case 'join':
    case 'split':
    case 'extract':
      return true;
    default:
      return wordsOf(making)?.every(Boolean) ?? false;
  }
}

/** All texts that can be made, where there are only some. */
export function wordsOf(making: Making): readonly string[] | undefined {
  switch (making.kind) {
    case 'bands':
      return [...making.bands.map(({ word }) => word), making.rest];
    case 'choose':
      return [...making.when.map(({ word }) => word), making.otherwise];
    default:
      return undefined;
  }
}

/** RFC 6570: a name without a value leaves nothing behind it. */
function linkSql(template: string, text: (name: string) => Sql, encoded: (value: Sql) => Sql): Sql {
  const pieces = (linkParts(template) ?? []).flatMap(
    ({ text: before, field: name, operator, first }): Sql[] => {
      const fixed = before === '' ? [] : [bind('text', before)];
      if (name === undefined) return fixed;
      const value = encoded(text(name));
      if (operator === '?' || operator === '&') {
        const lead = bind('text', `${operator === '?' && first ? '?' : '&'}${name}=`);
        return [...fixed, sql`coalesce(${lead} || ${value}, '')`];
      }
      return [...fixed, first ? sql`coalesce(${value}, '')` : sql`coalesce(',' || ${value}, '')`];
    },
  );
  return pieces.length === 0 ? sql`NULL` : sql`(${join(pieces, sql` || `)})`;
}

const unitSeconds = { second: 1, minute: 60, hour: 3600, day: 86_400 } as const;

function betweenSql(
  { from, to, unit }: Extract<Making, { kind: 'between' }>,
  { dialect, field, zone, now }: Tools,
): Sql {
  const { scalar } = dialect;
  const start = field(from);
  const moment = bind('instant', now);
  if (start.field.type === 'date') {
    const end = to === undefined ? dialect.periodStart(moment, 'instant', 'day', zone) : field(to).value;
    return scalar.days(end, start.value);
  }
  // Whole units that have passed; before their time they count down from minus one.
  return scalar.between(to === undefined ? moment : field(to).value, start.value, unitSeconds[unit]);
}

/** A size that leaves room in 64 bits for twice itself. */
const wholeSize = /^\d{1,18}$/;

/** The lower end of a whole number's bin, in whole numbers throughout; blank where it is beyond 64 bits. */
function wholeBin(value: Sql, size: Sql): Sql {
  const above = sql`(((${value} % ${size}) + ${size}) % ${size})`;
  return sql`(CASE WHEN ${value} >= (-9223372036854775807 - 1) + ${above} THEN ${value} - ${above} END)`;
}
