import { plainNames } from '#core/dataset/step/kind.ts';
import type { StepOf } from '#core/dataset/step/schema.ts';
import { bind, comma, identifier, join, ordinal, type Sql, sql } from '../fragment.ts';
import {
  type AroundTools,
  asColumn,
  fullOrder,
  orderSql,
  partition,
  select,
  wantedColumns,
} from './tools.ts';

/* Steps that look at records in an order. */

export function distinctSql({ by, order }: StepOf<'distinct'>, tools: AroundTools): Sql {
  const { dialect, before, field } = tools;
  const names = by.length === 0 ? plainNames(before) : by;
  const numbered = select(
    [
      ...tools.passThrough(),
      asColumn(
        sql`row_number() OVER (${partition(names, field)}ORDER BY ${fullOrder(order, before, field, dialect)})`,
        'its place',
      ),
    ],
    tools.inner,
  );
  return sql`${select(wantedColumns(tools), sql`(${numbered}) AS s`)} WHERE s.${identifier('its place')} = 1`;
}

/** Blanks take the value of the latest record before them that has one. */
export function fillBeforeSql(
  name: string,
  { order, within }: Extract<StepOf<'fill'>['with'], { kind: 'before' }>,
  tools: AroundTools,
): Sql {
  const { dialect, before, field } = tools;
  const { value } = field(name);
  const over = sql`${partition(within, field)}ORDER BY ${fullOrder(order, before, field, dialect)}`;
  // Records are grouped under the latest one with a value: the count of values so far stays the same until the next.
  const numbered = select(
    [
      ...tools.passThrough([name]),
      ...within.map((each, at) => asColumn(field(each).value, `within ${at}`)),
      asColumn(value, 'its value'),
      asColumn(sql`count(${value}) OVER (${over} ROWS UNBOUNDED PRECEDING)`, 'its run'),
      asColumn(sql`row_number() OVER (${over})`, 'its place'),
    ],
    tools.inner,
  );
  const groups = join(
    [...within.map((_, at) => sql`s.${identifier(`within ${at}`)}`), sql`s.${identifier('its run')}`],
    comma,
  );
  const filled = sql`first_value(s.${identifier('its value')}) OVER (PARTITION BY ${groups} ORDER BY s.${identifier('its place')})`;
  // Before the first value there is nothing to fill with.
  const shown = sql`CASE WHEN s.${identifier('its run')} > 0 THEN ${filled} END`;
  return select([...wantedColumns(tools, [name]), asColumn(shown, name)], sql`(${numbered}) AS s`);
}

export function rankSql({ as, order, within, keep }: StepOf<'rank'>, tools: AroundTools): Sql {
  const { dialect, field } = tools;
  const over = sql`(${partition(within, field)}ORDER BY ${join(orderSql(order, field, dialect), comma)})`;
  const ranked = select([...tools.passThrough(), asColumn(sql`rank() OVER ${over}`, as)], tools.inner);
  if (keep === undefined) return ranked;
  return sql`${select(wantedColumns(tools), sql`(${ranked}) AS s`)} WHERE s.${identifier(as)} <= ${bind('integer', String(keep))}`;
}

export function runningSql(step: StepOf<'running'>, tools: AroundTools): Sql {
  const { dialect, before, field } = tools;
  const { value, field: of } = field(step.field);
  const own = partition(step.within, field);
  // A share has no order, so what it is ordered by need not be there.
  const ordered = (): Sql => sql`${own}ORDER BY ${fullOrder(step.order, before, field, dialect)}`;
  const isFloat = of.type === 'float';
  const out = (columns: readonly Sql[], column: Sql): Sql =>
    select(
      [...wantedColumns(tools, [step.as]), asColumn(column, step.as)],
      sql`(${select([...tools.passThrough(), ...columns], tools.inner)}) AS s`,
    );
  const divided = (): Sql => {
    const [a, b] = [sql`s.${identifier('its sum')}`, sql`s.${identifier('its count')}`];
    return isFloat ? sql`(${a} / nullif(${b}, 0))` : dialect.quotient(a, b);
  };
  switch (step.what) {
    case 'total': {
      const total = sql`sum(${value}) OVER (${ordered()} ROWS UNBOUNDED PRECEDING)`;
      return select(
        [
          ...tools.passThrough(),
          asColumn(of.type === 'integer' ? dialect.scalar.fitted(total) : total, step.as),
        ],
        tools.inner,
      );
    }
    case 'difference':
      return select(
        [...tools.passThrough(), asColumn(sql`(${value} - lag(${value}) OVER (${ordered()}))`, step.as)],
        tools.inner,
      );
    case 'average': {
      const frame = sql`(${ordered()} ROWS BETWEEN ${ordinal((step.over ?? 1) - 1)} PRECEDING AND CURRENT ROW)`;
      return out(
        [
          asColumn(sql`sum(${value}) OVER ${frame}`, 'its sum'),
          asColumn(sql`count(${value}) OVER ${frame}`, 'its count'),
        ],
        divided(),
      );
    }
    case 'share':
      return out(
        [asColumn(value, 'its sum'), asColumn(sql`sum(${value}) OVER (${own})`, 'its count')],
        divided(),
      );
  }
}
