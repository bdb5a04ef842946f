import type { FieldType } from '#core/field/types.ts';
import { stepStopped } from '#core/problem/problem.ts';
import { unreadName } from '#core/step/kinds/fields.ts';
import type { StepOf } from '#core/step/schema.ts';
import { filterSql } from '../condition.ts';
import { convertSql } from '../convert.ts';
import { bind, identifier, type Sql, sql } from '../fragment.ts';
import { makingSql } from './making.ts';
import { named, select, type Tools } from './tools.ts';

export function typeSql({ field, to, misfit }: StepOf<'type'>, tools: Tools): Sql {
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
  const columns = [...tools.passing([field]), ...(wanted.has(field) ? [named(read, field)] : [])];
  const unread = unreadName(field);
  if (misfit === 'list' && wanted.has(unread))
    columns.push(
      named(
        sql`CASE WHEN ${read} IS NULL THEN ${of.type === 'text' ? value : dialect.scalar.text(value, of.type)} END`,
        unread,
      ),
    );
  return select(columns, tools.inner);
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

export function renameSql({ field, as }: StepOf<'rename'>, { wanted, passing, inner }: Tools): Sql {
  return select(
    [...passing([field]), ...(wanted.has(as) ? [named(sql`s.${identifier(field)}`, as)] : [])],
    inner,
  );
}

export function whereSql({ filters: [filter], field, dialect, passing, inner }: Tools): Sql {
  return select(passing(), inner, filter ? sql` WHERE ${filterSql(filter, field, dialect)}` : sql``);
}

export function deriveSql({ name, making }: StepOf<'derive'>, tools: Tools): Sql {
  return select([...tools.passing([name]), named(makingSql(making, tools), name)], tools.inner);
}

export function spreadSql({ field, take }: StepOf<'spread'>, tools: Tools): Sql {
  const { value } = tools.field(field);
  const members = take
    .filter(({ name }) => tools.wanted.has(name))
    .map(({ path, name, type }) => named(memberSql(value, path, type, tools), name));
  return select([...tools.passing(), ...members], tools.inner);
}
