import type { StepOf } from '#core/dataset/step/schema.ts';
import { stepStopped } from '#core/value/problem/problem.ts';
import { and, bind, comma, groupedBy, identifier, join, type Sql, sql } from '../fragment.ts';
import { fieldReader, readable, whereAll } from '../level.ts';
import { measureSql } from '../measure.ts';
import {
  asColumn,
  fullOrder,
  type NewColumn,
  plannedCalculation,
  type StepParts,
  select,
  type Tools,
} from './tools.ts';

/** What another data set has for each record, joined on by at most one record of its own, under an alias: nothing is multiplied or dropped. */
export function lookUpSql(step: StepOf<'lookUp'>, alias: Sql, tools: Tools): StepParts {
  const { dialect, others, wanted } = tools;
  const [other] = others;
  if (!other) throw new RangeError('a look-up without its data set');
  const { from, where, columns } = readable(other.level, other.level.columns.keys());
  const theirs = fieldReader(other.fields, columns);
  const keys = step.on.map(({ other: name }) => theirs(name).value);
  const keyColumns = keys.map((value, at) => asColumn(value, `key ${at}`));
  const filled = whereAll([...where, ...keys.map((value) => sql`${value} IS NOT NULL`)]);
  const grouped = (values: readonly Sql[]): Sql =>
    select([...keyColumns, ...values], from, sql`${filled}${groupedBy(keys.length)}`);
  const on = join(
    step.on.map(({ field }, at) => sql`${alias}.${identifier(`key ${at}`)} = ${tools.field(field).value}`),
    and,
  );
  const joined = (looked: Sql, brought: readonly NewColumn[]): StepParts => ({
    columns: brought,
    join: sql` LEFT JOIN (${looked}) AS ${alias} ON ${on}`,
  });
  const column = (name: string): NewColumn => ({
    name,
    value: sql`${alias}.${identifier(`take ${name}`)}`,
    plain: true,
    filled: true,
  });
  const as = step.as ?? '';
  const taken = step.take.filter(({ as: name }) => wanted.has(name));
  const [only, ...more] = step.on;
  if (
    (step.mode === 'one' || step.mode === 'first') &&
    only &&
    more.length === 0 &&
    other.isUnique(only.other)
  ) {
    const found = taken.map(({ field, as: name }) => asColumn(theirs(field).value, `take ${name}`));
    return joined(
      select([...keyColumns, ...found], from, whereAll(where)),
      taken.map(({ as: name }) => column(name)),
    );
  }
  switch (step.mode) {
    case 'one': {
      const looked = grouped([
        asColumn(sql`count(*)`, 'matches'),
        ...step.take.map(({ field, as: name }) =>
          asColumn(dialect.scalar.only(theirs(field).value, theirs(field).field.type), `take ${name}`),
        ),
      ]);
      // The key as it was found there: ours may be one and the same for all records, and what is said of that would be worked
      // out before any is looked at.
      const { type } = theirs(step.on[0]?.other ?? '').field;
      const key = sql`${alias}.${identifier('key 0')}`;
      const keyText = type === 'text' ? key : dialect.scalar.text(key, type);
      return joined(
        looked,
        taken.map(({ field, as: name }) => {
          const message = sql`${bind('text', `${stepStopped}one match was meant for “${step.on[0]?.field ?? ''}”, and there are several for `)} || ${keyText}`;
          const several = dialect.scalar.fail(message, theirs(field).field.type);
          const value = sql`CASE WHEN ${alias}.${identifier('matches')} > 1 THEN ${several} ELSE ${alias}.${identifier(`take ${name}`)} END`;
          return { name, value, filled: true };
        }),
      );
    }
    case 'first': {
      const order = fullOrder(step.order, other.fields, theirs, dialect);
      const numbered = select(
        [
          ...keyColumns,
          ...step.take.map(({ field, as: name }) => asColumn(theirs(field).value, `take ${name}`)),
          asColumn(sql`row_number() OVER (PARTITION BY ${join(keys, comma)} ORDER BY ${order})`, 'place'),
        ],
        from,
        filled,
      );
      const looked = sql`SELECT * FROM (${numbered}) AS n WHERE n.${identifier('place')} = 1`;
      return joined(
        looked,
        taken.map(({ as: name }) => column(name)),
      );
    }
    case 'count':
      return joined(grouped([asColumn(sql`count(*)`, 'found')]), [
        { name: as, value: sql`coalesce(${alias}.${identifier('found')}, 0)` },
      ]);
    case 'any':
      return joined(grouped([asColumn(sql`count(*)`, 'found')]), [
        { name: as, value: sql`(${alias}.${identifier('found')} IS NOT NULL)` },
      ]);
    case 'aggregate': {
      const calculation = step.calculation ?? { kind: 'count' as const };
      const value = measureSql(
        { name: as, calculation: plannedCalculation(calculation, tools.filters[0]) },
        theirs,
        dialect,
      );
      const found = sql`${alias}.${identifier('found')}`;
      const counts = calculation.kind === 'count' || calculation.kind === 'distinct';
      return joined(grouped([asColumn(value, 'found')]), [
        { name: as, value: counts ? sql`coalesce(${found}, 0)` : found },
      ]);
    }
    case 'all': {
      const order = fullOrder(step.order, other.fields, theirs, dialect);
      const members = step.take.map(({ field, as: name }) => ({
        name,
        value: theirs(field).value,
        type: theirs(field).field.type,
      }));
      return joined(grouped([asColumn(dialect.scalar.objects(members, order), 'found')]), [
        { name: as, value: sql`coalesce(${alias}.${identifier('found')}, '[]')` },
      ]);
    }
  }
}
