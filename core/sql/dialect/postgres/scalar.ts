import { and, bind, comma, join, ordinal, type Sql, sql } from '#core/sql/fragment.ts';
import { literalWord } from '#core/sql/words.ts';
import type { FieldType } from '#core/value/field/types.ts';
import type { Scalar } from '../scalar.ts';

const typeNames: Record<FieldType, Sql> = {
  text: sql`text`,
  integer: sql`bigint`,
  decimal: sql`numeric`,
  float: sql`double precision`,
  boolean: sql`boolean`,
  date: sql`date`,
  instant: sql`timestamptz`,
  nested: sql`text`,
};

const instantText = (value: Sql): Sql =>
  sql`to_char(${value} AT TIME ZONE 'UTC', 'YYYY-MM-DD"T"HH24:MI:SS.US"Z"')`;

/** Whether the day of a text that is written as a date is one of its month. */
const isDay = (text: Sql): Sql =>
  sql`(substr(${text}, 1, 4) <> '0000' AND substr(${text}, 9, 2)::int <= extract(day FROM make_date(substr(${text}, 1, 4)::int, substr(${text}, 6, 2)::int, 1) + interval '1 month' - interval '1 day'))`;

const jsonPath = (path: readonly string[]): Sql => bind('text', path);

/** PostgreSQL 13 and later. */
export const postgresScalar: Scalar = {
  text(value, type) {
    switch (type) {
      case 'decimal':
        return sql`trim_scale(${value})::text`;
      case 'date':
        return sql`to_char(${value}, 'YYYY-MM-DD')`;
      case 'instant':
        return instantText(value);
      default:
        return sql`${value}::text`;
    }
  },
  like: (value, pattern) => sql`${value} ~ ${bind('text', `^(${pattern})$`)}`,
  read(text, to) {
    switch (to) {
      case 'integer':
        return sql`CASE WHEN ${text}::numeric BETWEEN -9223372036854775808 AND 9223372036854775807 THEN ${text}::bigint END`;
      case 'decimal':
        return sql`CASE WHEN abs(${text}::numeric) < 1e26 THEN trim_scale(round(${text}::numeric, 12)) END`;
      case 'float':
        return sql`${text}::double precision`;
      case 'boolean':
        return sql`(lower(${text}) IN ('true', 'yes', '1'))`;
      case 'date':
        return sql`CASE WHEN ${isDay(text)} THEN ${text}::date END`;
      case 'instant':
        return sql`CASE WHEN ${isDay(text)} THEN CASE WHEN ${text} ~ '(Z|[+-][0-9:]{2,5})$' AND length(${text}) > 16 THEN ${text}::timestamptz ELSE ${text}::timestamp AT TIME ZONE 'UTC' END END`;
      case 'nested':
        return text;
    }
  },
  fitted: (value) =>
    sql`CASE WHEN ${value} BETWEEN -9223372036854775808 AND 9223372036854775807 THEN ${value}::bigint END`,
  // A message that is the same for all records would be worked out while the query is planned; concat() is not.
  fail: (message, type) => sql`(concat(${message})::bigint::text)::${typeNames[type]}`,
  aboutDistinct: (value) => sql`count(DISTINCT ${value})`,
  blank: (type) => bind(type, null),
  exact: (value, type) =>
    type === 'float' ? sql`round(${value}::text::numeric, 12)` : sql`round(${value}::numeric, 12)`,
  rounded: (value, places) => sql`round(${value}::numeric, ${ordinal(places)})`,
  product: (a, b) => sql`round((${a} * ${b})::numeric, 12)`,
  float: (value) => sql`(${value})::double precision`,
  length: (text) => sql`char_length(${text})::bigint`,
  position: (inside, find) => sql`strpos(${inside}, ${find})::bigint`,
  place: (value) => sql`(${value})::int`,
  dayCount: (value) => sql`(${value})::int`,
  midnight: (value) => sql`(${value}::timestamp AT TIME ZONE 'UTC')`,
  part(part, value, type, zone) {
    const local = type === 'date' ? value : sql`(${value} AT TIME ZONE ${bind('text', zone)})`;
    return sql`floor(extract(${literalWord(part)} FROM ${local}))::bigint`;
  },
  moved(value, type, amount, unit) {
    const by = sql`${bind('text', `${amount} ${unit}`)}::interval`;
    return type === 'date'
      ? sql`(${value} + ${by})::date`
      : sql`((${value} AT TIME ZONE 'UTC' + ${by}) AT TIME ZONE 'UTC')`;
  },
  seconds: (later, earlier) => sql`trim_scale(extract(epoch FROM ${later} - ${earlier})::numeric)`,
  between: (later, earlier, seconds) =>
    sql`floor(extract(epoch FROM ${later} - ${earlier})::numeric / ${ordinal(seconds)})::bigint`,
  days: (later, earlier) => sql`(${later} - ${earlier})::bigint`,
  fromClock: (value, zone) => sql`(${value} AT TIME ZONE 'UTC' AT TIME ZONE ${bind('text', zone)})`,
  byCode: (value) => sql`(${value})::text COLLATE "C"`,
  likePattern: (value, pattern) => sql`${value} LIKE ${pattern} ESCAPE ''`,
  found() {
    throw new TypeError('patterns are not found on a source');
  },
  encoded: (value) =>
    sql`(SELECT string_agg(CASE WHEN c.c ~ '^[A-Za-z0-9._~-]$' THEN c.c ELSE upper(regexp_replace(encode(convert_to(c.c, 'UTF8'), 'hex'), '(..)', '%\\1', 'g')) END, '' ORDER BY c.n) FROM regexp_split_to_table(${value}, '') WITH ORDINALITY AS c(c, n))`,
  unfolded: (records, value, keepEmpty) => ({
    from: sql`${records}${keepEmpty ? sql` LEFT JOIN ` : sql` JOIN `}LATERAL (SELECT nullif(e.item::text, 'null') AS item, e.place FROM json_array_elements(CASE WHEN json_typeof((${value})::json) = 'array' THEN (${value})::json ELSE '[]'::json END) WITH ORDINALITY AS e(item, place)) AS u ON TRUE`,
    item: sql`u.item`,
    place: sql`u.place`,
  }),
  member: (value, path) => sql`((${value})::json #>> ${jsonPath(path)})`,
  nested: (value, path) => sql`nullif(((${value})::json #> ${jsonPath(path)})::text, 'null')`,
  objects(members, order) {
    const pairs = members.map(({ name, value, type }) => {
      const isPlain = type === 'integer' || type === 'boolean' || type === 'float' || type === 'decimal';
      const written =
        type === 'nested' ? sql`(${value})::json` : isPlain ? value : postgresScalar.text(value, type);
      return sql`${bind('text', name)}, ${written}`;
    });
    return sql`json_agg(json_build_object(${join(pairs, comma)}) ORDER BY ${order})::text`;
  },
  only: (value) => sql`(array_agg(${value}))[1]`,
  firstBy(value, by, which, type, only) {
    const direction = which === 'first' ? sql`` : sql` DESC`;
    const tie = type === 'text' ? postgresScalar.byCode(value) : value;
    const kept = join([sql`${value} IS NOT NULL`, sql`${by} IS NOT NULL`, ...(only ? [only] : [])], and);
    return sql`(array_agg(${value} ORDER BY ${by}${direction}, ${tie}) FILTER (WHERE ${kept}))[1]`;
  },
  sumOfProducts: (value, by, type, only) =>
    type === 'float'
      ? sql`sum(${value} * ${by})${only}`
      : sql`sum(${value}::numeric * ${by}::numeric)${only}`,
  calendar: (from, to, unit, alias) =>
    sql`LATERAL (SELECT (date_trunc(${bind('text', unit)}, ${from}::timestamp) + step * ${bind('text', unit === 'quarter' ? '3 month' : `1 ${unit}`)}::interval)::date AS period FROM generate_series(0, 200000) AS step WHERE date_trunc(${bind('text', unit)}, ${from}::timestamp) + step * ${bind('text', unit === 'quarter' ? '3 month' : `1 ${unit}`)}::interval <= ${to}) AS ${alias}`,
};
