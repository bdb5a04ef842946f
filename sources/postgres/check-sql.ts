import { parse } from 'libpg-query';
import { findInputs } from '#core/dataset/inputs.ts';
import type { Problem } from '#core/value/problem/problem.ts';

const problem = (why: string, mend: string): Problem => ({
  code: 'bad-request',
  doing: 'reading the SQL',
  why,
  mend,
});

/** A function as a text calls it; without a schema it is one on the search path. */
export interface Called {
  readonly schema: string | null;
  readonly name: string;
}

export type Checked =
  | { ok: true; text: string; functions: readonly Called[] }
  | { ok: false; problem: Problem; position?: number };

/** Visits every node of a parse tree. */
function visit(node: unknown, see: (name: string, value: Record<string, unknown>) => void): void {
  if (Array.isArray(node)) for (const each of node) visit(each, see);
  else if (typeof node === 'object' && node !== null)
    for (const [name, value] of Object.entries(node)) {
      if (typeof value === 'object' && value !== null && !Array.isArray(value))
        see(name, value as Record<string, unknown>);
      visit(value, see);
    }
}

const refusals: Record<string, string> = {
  InsertStmt: 'it would insert records',
  UpdateStmt: 'it would change records',
  DeleteStmt: 'it would delete records',
  MergeStmt: 'it would change records',
  IntoClause: 'it would make a table',
  LockingClause: 'it would lock records',
};

function calledBy(call: Record<string, unknown>): Called {
  const names = (Array.isArray(call.funcname) ? call.funcname : []) as { String?: { sval?: string } }[];
  const parts = names.map((part) => part.String?.sval ?? '');
  return { schema: parts.length > 1 ? (parts.at(-2) ?? null) : null, name: parts.at(-1) ?? '' };
}

/**
 * Checks an analyst's SQL with PostgreSQL's own parser: exactly one SELECT that only reads. `:name` inputs may stand
 * wherever a value may. Gives back the text without what ends it, and the functions that it calls: what those do is for the
 * source's own catalog to say (see `refusedFunction`).
 */
export async function checkSql(text: string): Promise<Checked> {
  const no = (why: string, mend: string, position?: number): Checked => ({
    ok: false,
    problem: problem(why, mend),
    ...(position === undefined ? {} : { position }),
  });
  if (text.includes('\0')) return no('it holds a NUL character', 'Take the character out.');
  if (/(^|[^$\w])\$\d/.test(text.replace(/'(?:[^']|'')*'/g, "''")))
    return no('it holds a numbered placeholder such as $1', 'Write an input as :name.');
  if (text.trim() === '') return no('there is no statement in it', 'Write one SELECT.');
  let tree: Awaited<ReturnType<typeof parse>>;
  try {
    tree = await parse(withPlaceholders(text));
  } catch (thrown) {
    const { message, sqlDetails } = thrown as Error & { sqlDetails?: { cursorPosition?: number } };
    return no(message, 'Correct the SQL where the editor marks it.', sqlDetails?.cursorPosition);
  }
  const statements = tree.stmts ?? [];
  if (statements.length === 0) return no('there is no statement in it', 'Write one SELECT.');
  if (statements.length > 1)
    return no(`it holds ${statements.length} statements`, 'Write one SELECT, and nothing after it.');
  const statement = statements[0]?.stmt as Record<string, unknown> | undefined;
  const kind = Object.keys(statement ?? {})[0] ?? '';
  if (kind !== 'SelectStmt') return no('it is not a SELECT', 'A data set reads: write one SELECT.');
  let refusal: string | null = null;
  const functions: Called[] = [];
  visit(statement, (name, value) => {
    const key = name.charAt(0).toUpperCase() + name.slice(1);
    refusal ??= refusals[name] ?? refusals[key] ?? null;
    if (name === 'FuncCall') functions.push(calledBy(value));
  });
  if (refusal) return no(refusal, 'A data set only reads: leave that part out.');
  return { ok: true, text: text.replace(/[;\s]+$/, ''), functions };
}

/** The text with each input replaced by a placeholder of the same length, so that error positions stay true. */
function withPlaceholders(text: string): string {
  let replaced = '';
  let at = 0;
  findInputs(text).forEach(({ from, to }, index) => {
    replaced += text.slice(at, from) + `$${index + 1}`.padEnd(to - from, ' ');
    at = to;
  });
  return replaced + text.slice(at);
}
