import { ProblemError } from '#core/value/problem/problem.ts';
import { readingFunctions } from './functions.ts';

/* Whether SQL text for MariaDB or MySQL is one SELECT that only reads. That nothing is changed is the session's doing too. */

/** What its text says, as a tree. Throws where it is no SQL. The parser is two megabytes, so it is loaded once there is some. */
async function treeOf(text: string): Promise<unknown> {
  const { default: parsing } = await import('node-sql-parser/build/mariadb.js');
  return new parsing.Parser().astify(text, { database: 'MariaDB' });
}

/** Text as the server's own lexer takes it apart: comments left out, what stands in quotes replaced. */
interface Lexed {
  /** Without comments, otherwise as it was written: what is sent. */
  readonly text: string;
  /** The same, with every string shortened, so that nothing in one can be taken for SQL: what is parsed. */
  readonly bare: string;
}

/**
 * Strings, quoted names and comments as MariaDB has them with no `sql_mode`: backslashes escape, double quotes are strings.
 * Everything else is passed on as it stands.
 */
const token =
  /'(?:[^'\\]|\\[\s\S]|'')*'|"(?:[^"\\]|\\[\s\S]|"")*"|`(?:[^`]|``)*`|\/\*[\s\S]*?\*\/|#[^\n]*|--(?=\s|$)[^\n]*/g;

function lexed(text: string): Lexed | string {
  if (text.includes('\0')) return 'it holds a NUL character';
  if (/\/\*\s*(!|M!)/i.test(text)) return 'it holds a comment that the server would run (/*! … */)';
  let bare = '';
  let clean = '';
  let at = 0;
  for (const { 0: found, index } of text.matchAll(token)) {
    const between = text.slice(at, index);
    const kind = found.charAt(0);
    clean += between + (kind === '/' || kind === '#' || kind === '-' ? ' ' : found);
    bare += between + (kind === "'" || kind === '"' ? `${kind}s${kind}` : kind === '`' ? found : ' ');
    at = index + found.length;
  }
  const rest = text.slice(at);
  clean += rest;
  bare += rest;
  // What the lexer left over would be a quote or a comment that does not end.
  const left = bare.replace(/'s'|"s"|`(?:[^`]|``)*`/g, '');
  if (/['"`]|\/\*/.test(left)) return 'a quote or a comment in it does not end';
  if (/--/.test(left)) return 'it holds “--” without a space after it; write a space between two minus signs';
  return { text: clean.trim().replace(/[;\s]+$/, ''), bare: bare.trim().replace(/[;\s]+$/, '') };
}

type Node = Readonly<Record<string, unknown>>;
const isNode = (value: unknown): value is Node => value !== null && typeof value === 'object';

const nameOf = (value: unknown): string => {
  if (typeof value === 'string') return value;
  if (Array.isArray(value)) return value.map(nameOf).join('.');
  if (!isNode(value)) return '';
  return nameOf(value.value ?? value.name);
};

/** Why a part of the parsed statement is not allowed, or null. */
function refusal(node: unknown): string | null {
  if (Array.isArray(node)) {
    for (const each of node) {
      const why = refusal(each);
      if (why) return why;
    }
    return null;
  }
  if (!isNode(node)) return null;
  const type = node.type;
  if (type === 'function' || type === 'aggr_func') {
    const name = nameOf(node.name);
    const isOwn = isNode(node.name) && 'schema' in node.name;
    if (isOwn || !readingFunctions.has(name.toLowerCase()))
      return `it calls ${name.slice(0, 60)}(), which is not among the functions that only read`;
  }
  if (type === 'assign' || node.symbol === ':=') return 'it sets a variable';
  if (type === 'var') return 'it reads a variable of the server; write an input as :name';
  if (
    typeof node.type === 'string' &&
    /^(insert|update|delete|replace|create|drop|alter|call|use|set|lock|unlock|truncate|rename|load|grant|revoke|exec|execute|show|desc)$/.test(
      node.type,
    )
  )
    return 'it is not a SELECT';
  if (isNode(node.into) && (node.into.keyword || node.into.expr)) return 'it reaches for files';
  if (node.locking_read) return 'it locks records';
  for (const [name, value] of Object.entries(node)) {
    // Lists of names that the parser adds for convenience are no part of the statement.
    if (name === 'tableList' || name === 'columnList' || name === 'loc') continue;
    const why = refusal(value);
    if (why) return why;
  }
  return null;
}

/** SQL text as it may be sent, or why it may not: it must be one SELECT that calls only functions that read. */
export async function checkSelect(
  text: string,
): Promise<{ readonly text: string } | { readonly why: string }> {
  const found = lexed(text);
  if (typeof found === 'string') return { why: found };
  if (found.bare === '') return { why: 'there is no statement in it' };
  // An input stands where a value may; the parser reads it as one.
  const parsed = found.bare.replace(/(^|[^:\w]):([A-Za-z_]\w*)/g, '$1 NULL ');
  let tree: unknown;
  try {
    tree = await treeOf(parsed);
  } catch (thrown) {
    const { message, location } = thrown as Error & {
      location?: { start?: { line: number; column: number } };
    };
    const { line, column } = location?.start ?? {};
    const near = line === undefined ? message.slice(0, 120) : `near line ${line}, column ${column}`;
    return {
      why: /^\s*(select|with|\()/i.test(found.bare)
        ? `it cannot be read as SQL (${near})`
        : 'it is not a SELECT',
    };
  }
  const statements = Array.isArray(tree) ? tree : [tree];
  if (statements.length > 1) return { why: 'it is more than one statement' };
  const [statement] = statements as Node[];
  if (statement?.type !== 'select') return { why: 'it is not a SELECT' };
  const why = refusal(statement);
  return why ? { why } : { text: found.text };
}

/** SQL text without comments and what may follow it. Throws a {@link ProblemError} unless it is one SELECT that only reads. */
export async function requireSelect(text: string): Promise<string> {
  const checked = await checkSelect(text);
  if ('text' in checked) return checked.text;
  throw new ProblemError({
    code: 'bad-request',
    doing: 'checking the SQL',
    why: checked.why,
    mend: 'Use one SELECT that only reads.',
  });
}
