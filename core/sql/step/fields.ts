import { unreadName } from '#core/dataset/step/kinds/fields.ts';
import type { StepOf } from '#core/dataset/step/schema.ts';
import type { FieldType } from '#core/value/field/types.ts';
import { stepStopped } from '#core/value/problem/problem.ts';
import { filtersSql } from '../condition.ts';
import { convertSql } from '../convert.ts';
import { bind, type Sql, sql } from '../fragment.ts';
import type { Level } from '../level.ts';
import { isNeverEmpty, makingSql, wordsOf } from './making.ts';
import { alignDecimal, type NewColumn, type StepParts, type Tools } from './tools.ts';

/* Steps that look at one record at a time. */

export function typeSql({ field, to, misfit }: StepOf<'type'>, tools: Tools): StepParts {
  const { dialect, zone, wanted } = tools;
  const { value, field: of } = tools.field(field);
  const stops = (text: Sql): Sql =>
    dialect.scalar.fail(
      sql`${bind('text', `${stepStopped}“${field}” cannot be read as ${to}: `)} || ${text}`,
      to,
    );
  const read = convertSql(value, of.type, to, {
    dialect,
    zone,
    exactly: true,
    ...(misfit === 'stop' ? { misfit: stops } : {}),
  });
  const columns: NewColumn[] = [{ name: field, value: read }];
  const unread = unreadName(field);
  if (misfit === 'list' && wanted.has(unread))
    columns.push({
      name: unread,
      value: sql`CASE WHEN ${read} IS NULL THEN ${of.type === 'text' ? value : dialect.scalar.text(value, of.type)} END`,
    });
  return { columns };
}

/** A member of JSON text at a path (RFC 6901), as a type; what cannot be read so is blank. */
function memberSql(value: Sql, path: string, type: FieldType, { dialect, zone }: Tools): Sql {
  const tokens = path
    .split('/')
    .slice(1)
    .map((part) => part.replaceAll('~1', '/').replaceAll('~0', '~'));
  if (type === 'nested') return dialect.scalar.nested(value, tokens);
  const text = dialect.scalar.member(value, tokens);
  return convertSql(sql`nullif(${text}, '')`, 'text', type, { dialect, zone });
}

export const renameSql = ({ field, as }: StepOf<'rename'>, { columns }: Level): StepParts => {
  const column = columns.get(field);
  return { drops: field, columns: column ? [{ ...column, name: as, filled: !column.mayBeEmpty }] : [] };
};

export const whereSql = ({ filters: [filter], field, dialect }: Tools): StepParts =>
  filter ? { where: filtersSql(filter, field, dialect) } : {};

export const deriveSql = ({ name, making }: StepOf<'derive'>, tools: Tools): StepParts => ({
  columns: [{ name, value: makingSql(making, tools), filled: isNeverEmpty(making), words: wordsOf(making) }],
});

export function spreadSql({ field, take }: StepOf<'spread'>, tools: Tools): StepParts {
  const { value } = tools.field(field);
  return {
    columns: take
      .filter(({ name }) => tools.wanted.has(name))
      .map(({ path, name, type }) => ({ name, value: memberSql(value, path, type, tools), filled: true })),
  };
}

export function fillWithSql(name: string, text: string, { dialect, field }: Tools): StepParts {
  const { value, field: of } = field(name);
  const other = alignDecimal(bind(of.type, text), of.type, dialect);
  return {
    columns: [
      {
        name,
        value: sql`coalesce(${alignDecimal(value, of.type, dialect)}, ${other})`,
        filled: text !== '',
      },
    ],
  };
}
