import type { StepOf } from '#core/dataset/step/schema.ts';
import type { Field } from '#core/value/field/field.ts';
import type { FieldType } from '#core/value/field/types.ts';
import { labelOf } from '#core/value/field/value.ts';
import { and, bind, comma, groupedBy, identifier, join, type Sql, sql } from '../fragment.ts';
import { selectOf } from '../level.ts';
import { measureSql } from '../measure.ts';
import { type AroundTools, alignDecimal, asColumn, plannedCalculation, select } from './tools.ts';

/* Steps that give other records than there were. */

export function unfoldSql({ field, as, place, keepEmpty }: StepOf<'unfold'>, tools: AroundTools): Sql {
  const { wanted, dialect, inner } = tools;
  const unfolded = dialect.scalar.unfolded(inner, tools.field(field).value, keepEmpty ?? false);
  return select(
    [
      ...tools.passThrough([field, as]),
      ...(wanted.has(as) ? [asColumn(unfolded.item, as)] : []),
      ...(place !== undefined && wanted.has(place) ? [asColumn(unfolded.place, place)] : []),
    ],
    unfolded.from,
  );
}

export function stackSql(step: StepOf<'stack'>, tools: AroundTools): Sql {
  const { dialect, others, wanted, before } = tools;
  const all = new Map<string, FieldType>(before.map(({ name, type }) => [name, type]));
  for (const other of others)
    for (const { name, type } of other.fields) if (!all.has(name)) all.set(name, type);
  const shown = [...all].filter(([name]) => wanted.has(name));
  const origin = step.origin && wanted.has(step.origin.name) ? step.origin : null;
  const part = (from: Sql, fields: readonly Field[], word: string): Sql =>
    select(
      [
        ...shown.map(([name, type]) =>
          asColumn(
            fields.some((field) => field.name === name)
              ? alignDecimal(sql`s.${identifier(name)}`, type, dialect)
              : dialect.scalar.blank(type),
            name,
          ),
        ),
        ...(origin ? [asColumn(bind('text', word), origin.name)] : []),
      ],
      sql`(${from}) AS s`,
    );
  const parts = [
    part(tools.records, before, step.origin?.word ?? ''),
    ...others.map((other, at) => part(selectOf(other.level), other.fields, step.with[at]?.word ?? '')),
  ];
  return join(parts, sql` UNION ALL `);
}

export function summariseSql({ by, measures }: StepOf<'summarise'>, tools: AroundTools): Sql {
  const { dialect, field, filters, zone } = tools;
  let next = 0;
  const values = by.map(({ field: name, unit }) => {
    const { value, field: of } = field(name);
    return unit ? dialect.periodStart(value, of.type, unit, zone) : value;
  });
  const measured = measures.map(({ name, calculation, where }) => {
    const own = where ? filters[next++] : undefined;
    const met = calculation.kind === 'share' ? filters[next++] : undefined;
    const planned = {
      name,
      calculation: plannedCalculation(calculation, met),
      ...(own ? { where: own } : {}),
    };
    return asColumn(measureSql(planned, field, dialect), name);
  });
  return select(
    [...values.map((value, at) => asColumn(value, by[at]?.as ?? '')), ...measured],
    tools.inner,
    groupedBy(values.length),
  );
}

export function periodsSql(step: StepOf<'periods'>, tools: AroundTools): Sql {
  const { dialect, before, wanted, records, field } = tools;
  const shown = before.filter(({ name }) => wanted.has(name));
  const within = step.within.map((name) => ({ name, value: field(name).value }));
  const groups =
    within.length === 0
      ? sql`(SELECT min(s.${identifier(step.field)}) AS least, max(s.${identifier(step.field)}) AS greatest FROM whole AS s) AS b`
      : sql`(SELECT DISTINCT ${join(
          within.map(({ value }, index) => asColumn(value, `within ${index}`)),
          comma,
        )} FROM whole AS s) AS g CROSS JOIN (SELECT min(s.${identifier(step.field)}) AS least, max(s.${identifier(step.field)}) AS greatest FROM whole AS s) AS b`;
  const isThere = join(
    [
      sql`s.${identifier(step.field)} = p.period`,
      ...within.map(
        ({ value }, index) => sql`${value} IS NOT DISTINCT FROM g.${identifier(`within ${index}`)}`,
      ),
    ],
    and,
  );
  const own = shown.map(({ name, type }) =>
    asColumn(alignDecimal(sql`s.${identifier(name)}`, type, dialect), name),
  );
  const added = shown.map(({ name, type }) => {
    const index = step.within.indexOf(name);
    if (name === step.field) return asColumn(sql`p.period`, name);
    if (index >= 0) return asColumn(sql`g.${identifier(`within ${index}`)}`, name);
    return asColumn(
      step.zero.includes(name) ? alignDecimal(bind(type, '0'), type, dialect) : dialect.scalar.blank(type),
      name,
    );
  });
  const calendar = dialect.scalar.calendar(sql`b.least`, sql`b.greatest`, step.unit, sql`p`);
  return sql`SELECT * FROM (WITH whole AS (${records}) ${select(own, sql`whole AS s`)} UNION ALL ${select(
    added,
    sql`${groups} CROSS JOIN ${calendar}`,
    sql` WHERE NOT EXISTS (SELECT 1 FROM whole AS s WHERE ${isThere})`,
  )}) AS s`;
}

export function wideSql({ by, across, values, calculation }: StepOf<'wide'>, tools: AroundTools): Sql {
  const { dialect, field, filters, wanted } = tools;
  const keys = by.map((name) => field(name).value);
  const columns = values
    .filter(({ as }) => wanted.has(as))
    .map(({ value, as }) =>
      asColumn(
        measureSql(
          {
            name: as,
            calculation: plannedCalculation(calculation, filters[0]),
            where: { field: across, test: { op: 'same', value } },
          },
          field,
          dialect,
        ),
        as,
      ),
    );
  // Without a record there is nothing to make fields of.
  const groups = keys.length === 0 ? sql` HAVING count(*) > 0` : groupedBy(keys.length);
  return select([...keys.map((value, at) => asColumn(value, by[at] ?? '')), ...columns], tools.inner, groups);
}

export function longSql({ fields, name, value }: StepOf<'long'>, tools: AroundTools): Sql {
  const { wanted, before, inner, dialect } = tools;
  const parts = fields.map((each) =>
    select(
      [
        ...tools.passThrough([...fields, name, value]),
        ...(wanted.has(name)
          ? [
              asColumn(
                bind('text', labelOf(before.find((field) => field.name === each) ?? { name: each })),
                name,
              ),
            ]
          : []),
        ...(wanted.has(value)
          ? [
              asColumn(
                alignDecimal(
                  sql`s.${identifier(each)}`,
                  before.find((field) => field.name === each)?.type ?? 'text',
                  dialect,
                ),
                value,
              ),
            ]
          : []),
      ],
      inner,
    ),
  );
  return join(parts, sql` UNION ALL `);
}
