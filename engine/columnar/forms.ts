import { type Form, forms, numberForms } from '#core/dataset/kept/forms.ts';
import { comma, identifier, join, ordinal, type Sql, sql } from '#core/sql/fragment.ts';
import { literal } from './quote.ts';
import { paddedPattern } from './typed.ts';

const matches = (value: Sql, pattern: string): Sql => sql`regexp_full_match(${value}, ${literal(pattern)})`;
const when = (condition: Sql, value: Sql): Sql => sql`CASE WHEN ${condition} THEN ${value} END`;

/** Signs of money (Unicode category Sc), before or after the amount. */
const signs = '\\p{Sc}';
const thousands = '[+-]?[0-9]{1,3}(,[0-9]{3})+([.][0-9]+)?|[+-]?[0-9]+([.][0-9]+)?';
const decimalComma = '[+-]?([0-9]+|[0-9]{1,3}([. ][0-9]{3})+)(,[0-9]+)?';

const withoutCommas = (value: Sql): Sql => sql`replace(${value}, ',', '')`;
const withPoint = (value: Sql): Sql => sql`replace(regexp_replace(${value}, '[. ]', '', 'g'), ',', '.')`;
const withoutSign = (value: Sql): Sql => sql`regexp_replace(${value}, ${literal(` ?${signs} ?`)}, '')`;
const hasSign = (value: Sql): Sql => sql`regexp_matches(${value}, ${literal(signs)})`;

const days: Partial<Record<Form, { readonly like: string; readonly formats: readonly string[] }>> = {
  'day first': {
    like: '[0-9]{1,2}([./-])[0-9]{1,2}[./-][0-9]{4}',
    formats: ['%d.%m.%Y', '%d/%m/%Y', '%d-%m-%Y'],
  },
  'month first': { like: '[0-9]{1,2}[/-][0-9]{1,2}[/-][0-9]{4}', formats: ['%m/%d/%Y', '%m-%d-%Y'] },
  'year first': { like: '[0-9]{4}[/.][0-9]{1,2}[/.][0-9]{1,2}', formats: ['%Y/%m/%d', '%Y.%m.%d'] },
  'month named': {
    like: '[0-9]{1,2}[ -][A-Za-z]{3,9},?[ -][0-9]{4}|[A-Za-z]{3,9} [0-9]{1,2},? [0-9]{4}',
    formats: ['%d %b %Y', '%d-%b-%Y', '%d %B %Y', '%b %d %Y', '%b %d, %Y', '%B %d %Y', '%B %d, %Y'],
  },
};
const times = {
  like: '[ T][0-9]{1,2}:[0-9]{2}(:[0-9]{2})?( ?[AaPp][Mm])?',
  formats: [' %H:%M', ' %H:%M:%S', ' %I:%M %p', ' %I:%M:%S %p'],
};

function dayText(value: Sql, form: Form): Sql {
  const isTimed = form.endsWith(', with a time');
  const day = days[form.replace(', with a time', '') as Form];
  if (!day) throw new TypeError(`“${form}” is not a form of dates`);
  const formats = isTimed
    ? day.formats.flatMap((each) => times.formats.map((time) => each + time))
    : day.formats;
  const like = isTimed ? `(${day.like})${times.like}` : day.like;
  const read = sql`try_strptime(${value}, [${join(formats.map(literal), comma)}])`;
  return when(
    matches(value, like),
    sql`strftime(${read}, ${literal(isTimed ? '%Y-%m-%d %H:%M:%S' : '%Y-%m-%d')})`,
  );
}

/** A text written in a form as its type has it; null where it is not written so. */
export function formSql(value: Sql, form: Form): Sql {
  switch (form) {
    case 'thousands':
      return when(matches(value, thousands), withoutCommas(value));
    case 'decimal comma':
      return when(matches(value, decimalComma), withPoint(value));
    case 'money': {
      const amount = withoutSign(value);
      return when(sql`${hasSign(value)} AND ${matches(amount, thousands)}`, withoutCommas(amount));
    }
    case 'money with a decimal comma': {
      const amount = withoutSign(value);
      return when(sql`${hasSign(value)} AND ${matches(amount, decimalComma)}`, withPoint(amount));
    }
    case 'percent': {
      const amount = sql`replace(rtrim(${value}, ' %'), ',', '.')`;
      const part = sql`CAST(TRY_CAST(${amount} AS DECIMAL(28, 10)) * CAST(0.01 AS DECIMAL(3, 2)) AS VARCHAR)`;
      return when(
        matches(value, '[+-]?[0-9]{1,18}([.,][0-9]{1,10})? ?%'),
        sql`rtrim(rtrim(${part}, '0'), '.')`,
      );
    }
    case 'moment in UTC':
      return when(
        matches(value, '[0-9]{4}-[0-9]{2}-[0-9]{2}[T ][0-9]{2}:[0-9]{2}:[0-9]{2}([.,][0-9]+)? ?(UTC|GMT)'),
        sql`replace(regexp_replace(${value}, ' ?(UTC|GMT)$', 'Z'), ',', '.')`,
      );
    default:
      return dayText(value, form);
  }
}

const trimmed = (value: Sql): Sql => sql`nullif(trim(${value}), '')`;

/** The text of a column as its form makes it; what is not written in it stays as it is, and is found out when it is typed. */
export const formedSql = (column: Sql, form: Form): Sql =>
  sql`coalesce(${formSql(trimmed(column), form)}, ${column})`;

/**
 * How many texts of each column are written in each form: a record a column that holds anything, its place first, then the
 * texts, codes with zeros in front, the different signs of money, one of these, and the counts in the order of the forms.
 */
export function formCountsSql(columns: readonly string[], from: Sql): Sql {
  const values = columns.map(
    (name, at) => sql`{'place': ${ordinal(at)}, 'text': ${trimmed(identifier(name))}}`,
  );
  const sign = sql`nullif(regexp_extract(c.text, ${literal(signs)}), '')`;
  const counts = forms.map((form) => sql`count(${formSql(sql`c.text`, form)})`);
  const about = [
    sql`count(c.text)`,
    sql`count(*) FILTER (WHERE regexp_full_match(c.text, ${paddedPattern}))`,
    sql`count(DISTINCT ${sign})`,
    sql`min(${sign})`,
  ];
  return sql`SELECT c.place, ${join([...about, ...counts], comma)} FROM (SELECT unnest([${join(values, comma)}], recursive := true) FROM ${from}) AS c GROUP BY c.place`;
}

/** The form that all texts of a column are written in, and the sign of money that they have. */
export interface FoundForm {
  readonly form: Form;
  readonly unit?: string;
}

/** What {@link formCountsSql} found, by the names of the columns. */
export function formsOf(
  columns: readonly string[],
  rows: readonly (readonly unknown[])[],
): Map<string, FoundForm> {
  const found = new Map<string, FoundForm>();
  for (const [place, filled, padded, differentSigns, sign, ...counts] of rows) {
    const name = columns[Number(place)];
    if (name === undefined || Number(filled) === 0) continue;
    const form = forms.find((_, at) => Number(counts[at]) === Number(filled));
    if (!form || Number(differentSigns) > 1 || (Number(padded) > 0 && numberForms.includes(form))) continue;
    found.set(name, { form, ...(form.startsWith('money') ? { unit: String(sign) } : {}) });
  }
  return found;
}
