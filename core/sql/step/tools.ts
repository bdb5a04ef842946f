import type { Filter } from '#core/ask/condition/resolve.ts';
import type { PlannedCalculation } from '#core/ask/measure/calculation.ts';
import type { Calculation } from '#core/ask/measure/schema.ts';
import { orderWithoutTies } from '#core/dataset/step/kind.ts';
import type { Order } from '#core/plan/plan.ts';
import type { Dialect } from '#core/sql/dialect/dialect.ts';
import type { Field } from '#core/value/field/field.ts';
import type { FieldType } from '#core/value/field/types.ts';
import type { FieldSql } from '../condition.ts';
import { columnList, comma, identifier, join, type Sql, sql } from '../fragment.ts';
import type { Level } from '../level.ts';
import { tiesSql } from '../ties.ts';

/* What the SQL of a step is made of. */

/** Another data set that a step refers to, with the fields that it needs. */
export interface Other {
  readonly fields: readonly Field[];
  readonly level: Level;
  /** It is known that no two records share a value of the field. */
  readonly isUnique: (name: string) => boolean;
}

/** What every step is written with. */
export interface Tools {
  readonly dialect: Dialect;
  readonly zone: string;
  readonly now: string;
  readonly before: readonly Field[];
  readonly wanted: ReadonlySet<string>;
  /** A field of the records before, read as fields are. */
  readonly field: FieldSql;
  readonly filters: readonly Filter[];
  /** The other data sets that it refers to, with what it needs of them. */
  readonly others: readonly Other[];
}

/** What a step that works on one record at a time does to an open SELECT. The fields before pass through, unless the step makes others of their names. */
export interface StepParts {
  readonly columns?: readonly NewColumn[];
  /** Conditions that all have to hold. */
  readonly where?: readonly Sql[];
  /** A field before that does not go on. */
  readonly drops?: string;
  /** Another relation that adds at most one record to each, under the alias that was given. */
  readonly join?: Sql;
}

export interface NewColumn {
  readonly name: string;
  readonly value: Sql;
  /** A column as it stands, under another name. */
  readonly plain?: boolean;
  /** A text that is never empty. */
  readonly filled?: boolean;
  /** All texts that it can be; left out where it can be any. */
  readonly words?: readonly string[] | undefined;
}

/** For steps that need all records at once: a SELECT of those before, to put another around. */
export interface AroundTools extends Tools {
  readonly records: Sql;
  /** The same, under the alias `s`. */
  readonly inner: Sql;
  /** The fields wanted after that were there before, as columns of their own, except for some. */
  readonly passThrough: (but?: readonly string[]) => Sql[];
}

export const select = (columns: readonly Sql[], from: Sql, rest = sql``): Sql =>
  sql`SELECT ${columnList(columns)} FROM ${from}${rest}`;

export const asColumn = (value: Sql, name: string): Sql => sql`${value} AS ${identifier(name)}`;

/** The fields wanted after, out of a query around the records. */
export const wantedColumns = ({ wanted }: AroundTools, but: readonly string[] = []): Sql[] =>
  [...wanted].filter((name) => !but.includes(name)).map((name) => asColumn(sql`s.${identifier(name)}`, name));

export const orderSql = (order: readonly Order[], field: FieldSql, dialect: Dialect): Sql[] =>
  order.map(({ by, descending }) =>
    dialect.ordered(field(by).value, field(by).field.type, descending ?? false),
  );

/** An order without ties between different records: what was said, then every field by itself. */
export function fullOrder(
  order: readonly Order[],
  before: readonly Field[],
  field: FieldSql,
  dialect: Dialect,
): Sql {
  const others = orderWithoutTies([], before).filter((name) => !order.some(({ by }) => by === name));
  const terms = [...orderSql(order, field, dialect), ...tiesSql(others, field, dialect)];
  return join(terms.length > 0 ? terms : [sql`1`], comma);
}

export const partition = (within: readonly string[], field: FieldSql): Sql =>
  within.length === 0
    ? sql``
    : sql`PARTITION BY ${join(
        within.map((name) => field(name).value),
        comma,
      )} `;

/** A calculation whose condition, where it has one, is resolved. */
export const plannedCalculation = (
  calculation: Calculation,
  filter: Filter | undefined,
): PlannedCalculation =>
  calculation.kind === 'share' ? { kind: 'share', where: filter ?? { all: [] } } : calculation;

/** A value that will stand in one column with others: decimals get one shape first, lest an engine round them to another's. */
export const alignDecimal = (value: Sql, type: FieldType, { scalar }: Dialect): Sql =>
  type === 'decimal' ? scalar.exact(value, type) : value;
