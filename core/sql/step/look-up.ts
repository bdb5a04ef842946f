import { stepStopped } from '#core/problem/problem.ts';
import type { StepOf } from '#core/step/schema.ts';
import { and, bind, comma, groupedBy, identifier, join, type Sql, sql } from '../fragment.ts';
import { measureSql } from '../measure.ts';
import { fieldReader } from '../read.ts';
import { fullOrder, named, plannedCalculation, select, type Tools } from './tools.ts';

/** What another data set has for each record, joined on by at most one record of its own: nothing is multiplied or dropped. */
export function lookUpSql(step: StepOf<'lookUp'>, tools: Tools): Sql {
  const { dialect, others, wanted } = tools;
  const [other] = others;
  if (!other) throw new RangeError('a look-up without its data set');
  const theirs = fieldReader(sql`o`, other.fields);
  const from = sql`(${other.records}) AS o`;
  const keys = step.on.map(({ other: name }) => theirs(name).value);
  const keyColumns = keys.map((value, at) => named(value, `key ${at}`));
  const filled = join(
    keys.map((value) => sql`${value} IS NOT NULL`),
    and,
  );
  const grouped = (columns: readonly Sql[]): Sql =>
    select([...keyColumns, ...columns], from, sql` WHERE ${filled}${groupedBy(keys.length)}`);
  const on = join(
    step.on.map(({ field }, at) => sql`l.${identifier(`key ${at}`)} = ${tools.field(field).value}`),
    and,
  );
  const joined = (looked: Sql, brought: readonly Sql[]): Sql =>
    select([...tools.passing(), ...brought], sql`${tools.inner} LEFT JOIN (${looked}) AS l ON ${on}`);
  const as = step.as ?? '';
  switch (step.mode) {
    case 'one': {
      const looked = grouped([
        named(sql`count(*)`, 'matches'),
        ...step.take.map(({ field, as: name }) =>
          named(dialect.scalar.only(theirs(field).value, theirs(field).field.type), `take ${name}`),
        ),
      ]);
      const key = tools.field(step.on[0]?.field ?? '');
      const keyText = key.field.type === 'text' ? key.value : dialect.scalar.text(key.value, key.field.type);
      return joined(
        looked,
        step.take
          .filter(({ as: name }) => wanted.has(name))
          .map(({ field, as: name }) => {
            const message = sql`${bind('text', `${stepStopped}one match was meant for “${step.on[0]?.field ?? ''}”, and there are several for `)} || ${keyText}`;
            const several = dialect.scalar.fail(message, theirs(field).field.type);
            return named(
              sql`CASE WHEN l.${identifier('matches')} > 1 THEN ${several} ELSE l.${identifier(`take ${name}`)} END`,
              name,
            );
          }),
      );
    }
    case 'first': {
      const order = fullOrder(step.order, other.fields, theirs, dialect);
      const numbered = select(
        [
          ...keyColumns,
          ...step.take.map(({ field, as: name }) => named(theirs(field).value, `take ${name}`)),
          named(sql`row_number() OVER (PARTITION BY ${join(keys, comma)} ORDER BY ${order})`, 'place'),
        ],
        from,
        sql` WHERE ${filled}`,
      );
      const looked = sql`SELECT * FROM (${numbered}) AS n WHERE n.${identifier('place')} = 1`;
      return joined(
        looked,
        step.take
          .filter(({ as: name }) => wanted.has(name))
          .map(({ as: name }) => named(sql`l.${identifier(`take ${name}`)}`, name)),
      );
    }
    case 'count':
      return joined(grouped([named(sql`count(*)`, 'found')]), [
        named(sql`coalesce(l.${identifier('found')}, 0)`, as),
      ]);
    case 'any':
      return joined(grouped([named(sql`count(*)`, 'found')]), [
        named(sql`(l.${identifier('found')} IS NOT NULL)`, as),
      ]);
    case 'aggregate': {
      const calculation = step.calculation ?? { kind: 'count' as const };
      const value = measureSql(
        { name: as, calculation: plannedCalculation(calculation, tools.filters[0]) },
        theirs,
        dialect,
      );
      const found = sql`l.${identifier('found')}`;
      const counts = calculation.kind === 'count' || calculation.kind === 'distinct';
      return joined(grouped([named(value, 'found')]), [
        named(counts ? sql`coalesce(${found}, 0)` : found, as),
      ]);
    }
    case 'all': {
      const order = fullOrder(step.order, other.fields, theirs, dialect);
      const members = step.take.map(({ field, as: name }) => ({
        name,
        value: theirs(field).value,
        type: theirs(field).field.type,
      }));
      return joined(grouped([named(dialect.scalar.objects(members, order), 'found')]), [
        named(sql`coalesce(l.${identifier('found')}, '[]')`, as),
      ]);
    }
  }
}
