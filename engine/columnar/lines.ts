import { groupNames, patternOf, re2Pattern } from '#core/dataset/log/formats.ts';
import type { LineFormat, TimeFormat } from '#core/dataset/log/schema.ts';
import type { Column } from '#core/dataset/schema.ts';
import { columnType } from '#core/sql/dialect/columnar/dialect.ts';
import type { FieldType } from '#core/value/field/types.ts';
import { exactJson } from './exact-json.ts';
import { literalText, nameText } from './quote.ts';

/* Lines of logs as records, in SQL. Patterns are RE2's, which cannot hang: their time is bounded by the length of the line. */

/** A line is at most this long; what is longer was cut when it was taken in. */
export const longestLine = 1_000_000;
/** Never in a line: it was taken out on the way in. */
export const unitSeparator = '\u001f';

/** The line itself, and whether it became a record; named as no field of a line is. */
export const lineColumn = '"the line as written"';
export const fitsColumn = '"the line fits"';
const partColumn = '"the parts"';
const keysColumn = '"the keys"';
const matchedColumn = '"the line matched"';

/** The lines of a file, one text each. */
export const linesSql = (file: string): string =>
  `SELECT text AS ${lineColumn} FROM read_csv(${literalText(file)}, columns = {'text': 'VARCHAR'}, delim = '${unitSeparator}', quote = '', escape = '',
     header = false, auto_detect = false, strict_mode = false, max_line_size = ${4 * longestLine}, buffer_size = ${8 * longestLine})`;

/** Lines joined into records by what the first line of one looks like; lines before the first such line are one record. */
export const joinedSql = (lines: string, first: string): string =>
  `SELECT string_agg(${lineColumn}, chr(10) ORDER BY n) AS ${lineColumn} FROM (
     SELECT ${lineColumn}, n, sum(CASE WHEN regexp_matches(${lineColumn}, ${literalText(re2Pattern(first))}) THEN 1 ELSE 0 END) OVER (ORDER BY n ROWS UNBOUNDED PRECEDING) AS record
     FROM (SELECT ${lineColumn}, row_number() OVER () AS n FROM (${lines}))) GROUP BY record ORDER BY record`;

const pairPattern = String.raw`([A-Za-z_][\w.\-/]*)=("(?:[^"\\]|\\.)*"|\S*)`;

/** How a text of a moment becomes ISO 8601; null where it cannot. */
function momentSql(value: string, time: TimeFormat): string {
  const iso = (moment: string): string => `strftime(${moment}, '%Y-%m-%dT%H:%M:%S.%fZ')`;
  switch (time) {
    case 'iso':
      return value;
    case 'clf':
      // Whole seconds, written the way that is read most quickly later.
      return `strftime(CAST(try_strptime(${value}, '%d/%b/%Y:%H:%M:%S %z') AS TIMESTAMP), '%Y-%m-%dT%H:%M:%SZ')`;
    case 'utc':
      return momentSql(`regexp_replace(${value}, ' ?(UTC|GMT)$', '')`, 'local');
    case 'local':
      return iso(`TRY_CAST(replace(${value}, ',', '.') AS TIMESTAMP)`);
    case 'seconds':
      return iso(`make_timestamp(CAST(round(TRY_CAST(${value} AS DECIMAL(30, 6)) * 1000000) AS BIGINT))`);
    case 'milliseconds':
      return iso(`make_timestamp(CAST(round(TRY_CAST(${value} AS DECIMAL(30, 3)) * 1000) AS BIGINT))`);
  }
}

export interface LineReading {
  readonly line: LineFormat;
  readonly isJoined: boolean;
  readonly columns: readonly (Pick<Column, 'column' | 'name' | 'time'> & { readonly type: FieldType })[];
}

/**
 * The records of lines: the line as written, whether it is of the format and every value of its type, and each column as a
 * text under its own name.
 */
export function recordsSql(lines: string, { line, isJoined, columns }: LineReading): string {
  const { pieces = [], parsed, matched, textOfPart } = parts(line, isJoined);
  const values = columns.map((column) => {
    const value = textOfPart(column.column);
    return column.type === 'instant' ? momentSql(value, column.time ?? 'iso') : value;
  });
  const named = columns.map(({ name }, at) => `${values[at]} AS ${nameText(name)}`);
  const checks = columns.flatMap(({ column, name, type, time = 'iso' }) => {
    if (type === 'text' || type === 'nested') return [];
    const said = nameText(name);
    // A moment that was read has become ISO 8601; one that was not is blank though the line holds something.
    const fits =
      type !== 'instant'
        ? `TRY_CAST(${said} AS ${columnType(type, 12)}) IS NOT NULL`
        : time === 'iso'
          ? `CASE WHEN length(${said}) = 20 AND ends_with(${said}, 'Z') THEN TRY_CAST(${said} AS TIMESTAMP) IS NOT NULL ELSE TRY_CAST(${said} AS TIMESTAMPTZ) IS NOT NULL END`
          : `${said} IS NOT NULL`;
    return [`(${textOfPart(column)} IS NULL OR ${fits})`];
  });
  return `SELECT ${lineColumn}, (${[matchedColumn, ...checks].join(' AND ')}) AS ${fitsColumn}${columns.map(({ name }) => `, ${nameText(name)}`).join('')}
    FROM (SELECT *, ${[`${matched} AS ${matchedColumn}`, ...named].join(', ')} FROM (SELECT ${[lineColumn, ...parsed].join(', ')} FROM (SELECT ${[lineColumn, ...pieces].join(', ')} FROM (${lines}))))`;
}

const extracted = (text: string, pattern: string, names: readonly string[]): string =>
  `regexp_extract(${text}, ${literalText(pattern)}, [${names.map(literalText).join(', ')}])`;

/**
 * A line of a web server in three parts: up to the request, the request with its status, and what follows. A pattern of at
 * most four groups takes a fraction of the time that one of eleven does. What has a quote where hardly anybody writes one
 * is left to the whole pattern, so that nothing is read in another way.
 */
const webPieces = {
  head: String.raw`^(?P<host>[^"\s]+) (?P<ident>[^"\s]+) (?P<user>[^"\s]+) \[(?P<time>[^\]"]+)\] $`,
  request: String.raw`^"(?P<method>[A-Z]+) (?P<path>[^"\s]+)(?: (?P<protocol>[^" ]+))?" (?P<status>\d{3})$`,
  common: String.raw`^ (?P<bytes>\d+|-)$`,
  combined: String.raw`^ (?P<bytes>\d+|-) "(?P<referrer>(?:[^"\\]|\\.)*)" "(?P<agent>(?:[^"\\]|\\.)*)"$`,
};

function webParts(
  kind: 'common' | 'combined',
  names: readonly string[],
  whole: string,
): { pieces: string[]; parsed: string[] } {
  const opening = `instr(${lineColumn}, '"')`;
  // Behind the request's closing quote come a space and three digits.
  const rest = `instr(${lineColumn}, '" ') + 5`;
  const pieces = [
    { as: '"the head"', pattern: webPieces.head, text: `substr(${lineColumn}, 1, ${opening} - 1)` },
    {
      as: '"the request"',
      pattern: webPieces.request,
      text: `substr(${lineColumn}, ${opening}, ${rest} - ${opening})`,
    },
    { as: '"the rest"', pattern: webPieces[kind], text: `substr(${lineColumn}, ${rest})` },
  ].map((piece) => ({ ...piece, names: groupNames(piece.pattern) }));
  const members = names.map((name) => {
    const piece = pieces.find((each) => each.names.includes(name));
    return `${literalText(name)}: struct_extract(${piece?.as}, ${literalText(name)})`;
  });
  // The first group of each piece is never blank where the piece fits.
  const fit = pieces
    .map(({ as, names: [first = ''] }) => `struct_extract(${as}, ${literalText(first)}) <> ''`)
    .join(' AND ');
  return {
    pieces: pieces.map(({ as, pattern, text, names: of }) => `${extracted(text, pattern, of)} AS ${as}`),
    parsed: [`CASE WHEN ${fit} THEN {${members.join(', ')}} ELSE ${whole} END AS ${partColumn}`],
  };
}

/** The values of a line; what stands in quotes is one, whatever is in it (RFC 4180). */
function delimitedParts(delimiter: string): string {
  const plain = `string_split(${lineColumn}, ${literalText(delimiter)})`;
  if (delimiter.length > 1) return plain;
  const escaped = `\\x{${delimiter.charCodeAt(0).toString(16)}}`;
  const value = `("(?:[^"]|"")*"|[^${escaped}]*)${escaped}`;
  return `CASE WHEN contains(${lineColumn}, '"') THEN regexp_extract_all(${lineColumn} || ${literalText(delimiter)}, ${literalText(value)}, 1) ELSE ${plain} END`;
}

/** What to work out of a line once, whether it matched, and each part of it. */
function parts(
  line: LineFormat,
  isJoined: boolean,
): {
  /** What the rest is worked out of; each once. */
  pieces?: string[];
  parsed: string[];
  matched: string;
  textOfPart: (column: string) => string;
} {
  const pattern = patternOf(line);
  if (pattern !== null) {
    const names = groupNames(pattern);
    const whole = re2Pattern(pattern);
    // Web servers and syslog write a hyphen for what they do not have.
    const blank = line.kind === 'pattern' ? "''" : "'-'";
    const all = extracted(lineColumn, whole, names);
    const isWeb = !isJoined && (line.kind === 'common' || line.kind === 'combined');
    return {
      ...(isWeb ? webParts(line.kind, names, all) : { parsed: [`${all} AS ${partColumn}`] }),
      matched: `(${names.map((name) => `${partColumn}.${nameText(name)} <> ''`).join(' OR ')})`,
      textOfPart: (name) => `nullif(nullif(${partColumn}.${nameText(name)}, ${blank}), '')`,
    };
  }
  switch (line.kind) {
    case 'json':
      return {
        parsed: [`CASE WHEN json_valid(${lineColumn}) THEN ${exactJson(lineColumn)} END AS ${partColumn}`],
        matched: `coalesce(json_type(${partColumn}) = 'OBJECT', false)`,
        textOfPart: (pointer) => `json_extract_string(${partColumn}, ${literalText(pointer)})`,
      };
    case 'pairs':
      return {
        parsed: [
          `regexp_extract_all(${lineColumn}, ${literalText(pairPattern)}, 1) AS ${keysColumn}`,
          `regexp_extract_all(${lineColumn}, ${literalText(pairPattern)}, 2) AS ${partColumn}`,
        ],
        matched: `len(${keysColumn}) > 0`,
        textOfPart: (key) => {
          const value = `${partColumn}[list_position(${keysColumn}, ${literalText(key)})]`;
          return `nullif(CASE WHEN starts_with(${value}, '"') THEN replace(${value}[2:-2], '\\"', '"') ELSE ${value} END, '')`;
        },
      };
    case 'delimited':
      return {
        parsed: [`${delimitedParts(line.delimiter)} AS ${partColumn}`],
        matched: `len(${partColumn}) = ${line.names.length}`,
        textOfPart: (name) => {
          const value = `trim(${partColumn}[${line.names.indexOf(name) + 1}])`;
          return `nullif(CASE WHEN starts_with(${value}, '"') AND ends_with(${value}, '"') AND length(${value}) > 1 THEN replace(${value}[2:-2], '""', '"') ELSE ${value} END, '')`;
        },
      };
    default:
      throw new TypeError(`${line.kind} is read as a pattern`);
  }
}
