import { and, bind, comma, identifier, join, ordinal, type Sql, sql } from '#core/sql/fragment.ts';
import { literalWord } from '#core/sql/words.ts';
import type { FieldType } from '#core/value/field/types.ts';
import type { Unit } from '#core/value/period/units.ts';
import type { Scalar } from '../scalar.ts';

/** Exact numbers that steps make have 12 decimals and up to 26 digits before the point. */
const quotientType = sql`DECIMAL(38, 12)`;

/** A path into JSON as DuckDB has it: a JSON Pointer (RFC 6901), or `$` for all of it. */
const jsonPath = (path: readonly string[]): Sql =>
  path.length === 0
    ? sql`'$'`
    : bind('text', path.map((part) => `/${part.replaceAll('~', '~0').replaceAll('/', '~1')}`).join(''));

const intervals: Record<Unit | 'minute' | 'second', Sql> = {
  second: sql`to_seconds`,
  minute: sql`to_minutes`,
  hour: sql`to_hours`,
  day: sql`to_days`,
  week: sql`to_weeks`,
  month: sql`to_months`,
  quarter: sql`to_quarters`,
  year: sql`to_years`,
};

const instantText = (value: Sql): Sql => sql`strftime(${value}, '%Y-%m-%dT%H:%M:%S.%fZ')`;

const names: Record<Exclude<FieldType, 'text'>, Sql> = {
  integer: sql`BIGINT`,
  decimal: quotientType,
  float: sql`DOUBLE`,
  boolean: sql`BOOLEAN`,
  date: sql`DATE`,
  instant: sql`TIMESTAMP`,
  nested: sql`JSON`,
};

/** The start of a unit's step in a calendar. */
const unitText = (unit: Unit): Sql => bind('text', unit);

/** Over records we keep; `local_clock` is a macro of the engine (see engine/columnar). */
export const duckdbScalar = (localised: (value: Sql, zone: string) => Sql): Scalar => {
  const scalar: Scalar = {
    text(value, type) {
      const text = sql`CAST(${value} AS VARCHAR)`;
      switch (type) {
        case 'decimal':
          return sql`plain_decimal(${text})`;
        case 'instant':
          return instantText(value);
        default:
          return text;
      }
    },
    like: (value, pattern) => sql`regexp_full_match(${value}, ${bind('text', pattern)})`,
    read(text, to) {
      switch (to) {
        case 'boolean':
          return sql`(lower(${text}) IN ('true', 'yes', '1'))`;
        case 'date':
          return sql`CASE WHEN NOT starts_with(${text}, '0000') THEN TRY_CAST(${text} AS DATE) END`;
        case 'instant':
          return sql`CASE WHEN NOT starts_with(${text}, '0000') THEN CAST(TRY_CAST(${text} AS TIMESTAMPTZ) AS TIMESTAMP) END`;
        case 'nested':
          return sql`CASE WHEN json_valid(${text}) THEN ${text} END`;
        case 'decimal':
          return sql`TRY_CAST(${text} AS ${quotientType})`;
        default:
          return sql`TRY_CAST(${text} AS ${names[to]})`;
      }
    },
    fitted: (value) => sql`TRY_CAST(${value} AS BIGINT)`,
    fail: (message) => sql`error(${message})`,
    aboutDistinct: (value) => sql`approx_count_distinct(${value})`,
    blank: (type) => (type === 'decimal' ? sql`CAST(NULL AS ${quotientType})` : bind(type, null)),
    exact: (value, type) =>
      type === 'float'
        ? sql`CAST(CAST(${value} AS VARCHAR) AS ${quotientType})`
        : sql`CAST(${value} AS ${quotientType})`,
    rounded: (value, places) => sql`CAST(round(${value}, ${ordinal(places)}) AS ${quotientType})`,
    product: (a, b) => sql`CAST(${a} * ${b} AS ${quotientType})`,
    float: (value) => sql`CAST(${value} AS DOUBLE)`,
    length: (text) => sql`length(${text})`,
    position: (inside, find) =>
      sql`CASE WHEN ${find} = '' AND ${inside} IS NOT NULL THEN 1 ELSE strpos(${inside}, ${find}) END`,
    place: (value) => value,
    dayCount: (value) => sql`CAST(${value} AS INTEGER)`,
    midnight: (value) => sql`CAST(${value} AS TIMESTAMP)`,
    part(part, value, type, zone) {
      const local = type === 'date' ? value : localised(value, zone);
      return sql`CAST(extract(${literalWord(part)} FROM ${local}) AS BIGINT)`;
    },
    moved(value, type, amount, unit) {
      const after = sql`(${value} + ${intervals[unit]}(CAST(${bind('integer', amount)} AS INTEGER)))`;
      return type === 'date' ? sql`CAST(${after} AS DATE)` : after;
    },
    seconds: (later, earlier) =>
      sql`CAST((epoch_us(${later}) - epoch_us(${earlier})) * 0.000001 AS ${quotientType})`,
    between(later, earlier, seconds) {
      const micros = ordinal(seconds * 1_000_000);
      const apart = sql`(epoch_us(${later}) - epoch_us(${earlier}))`;
      return sql`((${apart} - ((${apart} % ${micros}) + ${micros}) % ${micros}) // ${micros})`;
    },
    days: (later, earlier) => sql`CAST(${later} - ${earlier} AS BIGINT)`,
    fromClock: (value, zone) => sql`CAST(timezone(${bind('text', zone)}, ${value}) AS TIMESTAMP)`,
    byCode: (value) => value,
    likePattern: (value, pattern) => sql`${value} LIKE ${pattern}`,
    found: (value, pattern) =>
      sql`nullif(regexp_extract(${value}, ${bind('text', pattern)}, ${ordinal(/\((?!\?(?!P?<))/.test(pattern.replace(/\\./g, '')) ? 1 : 0)}), '')`,
    encoded: (value) => sql`url_encode(${value})`,
    // Joined sideways, the whole list would stand beside each of its items: memory by the square of its length.
    unfolded(records, value, keepEmpty) {
      const list = sql`list_transform(json_extract(${value}, '$[*]'), lambda item, place: {'item': nullif(CAST(item AS VARCHAR), 'null'), 'place': place})`;
      const kept = keepEmpty ? sql`CASE WHEN len(${list}) > 0 THEN ${list} ELSE [NULL] END` : list;
      const one = identifier('one item');
      return {
        from: sql`(SELECT s.*, unnest(${kept}) AS ${one} FROM ${records}) AS s`,
        item: sql`s.${one}.item`,
        place: sql`s.${one}.place`,
      };
    },
    member: (value, path) => sql`json_extract_string(${value}, ${jsonPath(path)})`,
    nested: (value, path) => sql`nullif(CAST(json_extract(${value}, ${jsonPath(path)}) AS VARCHAR), 'null')`,
    objects(members, order) {
      const pairs = members.map(({ name, value, type }) => {
        const written =
          type === 'nested'
            ? sql`CAST(${value} AS JSON)`
            : type === 'integer' || type === 'boolean' || type === 'float'
              ? value
              : type === 'decimal'
                ? sql`CAST(${scalar.text(value, type)} AS JSON)`
                : scalar.text(value, type);
        return sql`${bind('text', name)}, ${written}`;
      });
      return sql`CAST(to_json(list(json_object(${join(pairs, comma)}) ORDER BY ${order})) AS VARCHAR)`;
    },
    only: (value) => sql`any_value(${value})`,
    firstBy(value, by, which, _, only) {
      const kept = join([sql`${value} IS NOT NULL`, sql`${by} IS NOT NULL`, ...(only ? [only] : [])], and);
      const direction = which === 'first' ? sql`` : sql` DESC`;
      return sql`first(${value} ORDER BY ${by}${direction}, ${value}) FILTER (WHERE ${kept})`;
    },
    sumOfProducts: (value, by, type, only) =>
      type === 'integer'
        ? sql`sum(CAST(${value} AS HUGEINT) * ${by})${only}`
        : sql`sum(${value} * ${by})${only}`,
    calendar: (from, to, unit, alias) =>
      sql`LATERAL (SELECT CAST(unnest(generate_series(date_trunc(${unitText(unit)}, CAST(${from} AS TIMESTAMP)), CAST(${to} AS TIMESTAMP), ${intervals[unit]}(1))) AS DATE) AS period) AS ${alias}`,
  };
  return scalar;
};
