import { isObject } from './members.ts';
import { namesBeside } from './rows.ts';

/** A place in an answer where records may be: the JSONPath (RFC 9535) of the records themselves, and how many there are. */
export interface Candidate {
  readonly path: string;
  readonly count: number;
  /** Members that the records have, the most frequent first. */
  readonly members: readonly string[];
}

const mostDepth = 6;
const mostCandidates = 12;

const step = (name: string): string =>
  /^[A-Za-z_][A-Za-z0-9_]*$/.test(name) ? `.${name}` : `[${JSON.stringify(name)}]`;

function membersOf(records: readonly Record<string, unknown>[]): string[] {
  const found = new Map<string, number>();
  for (const record of records.slice(0, 100))
    for (const name of Object.keys(record)) found.set(name, (found.get(name) ?? 0) + 1);
  return [...found].sort(([, a], [, b]) => b - a).map(([name]) => name);
}

/** Objects, several of them, that have most of their members in common: records, rather than parts of one. */
function areAlike(values: readonly unknown[]): values is Record<string, unknown>[] {
  const objects = values.filter(isObject);
  if (objects.length < 3 || objects.length < values.length) return false;
  const sizes = objects.slice(0, 100).reduce((sum, each) => sum + Object.keys(each).length, 0);
  const all = membersOf(objects).length;
  return all > 0 && sizes / Math.min(100, objects.length) >= all / 2;
}

/**
 * Where in an answer the records are likely to be: every list of objects, also inside the records of another list, every object whose members are alike, and the
 * answer itself where it is one object. The likeliest first: the largest list, the outer before the inner.
 */
export function findCandidates(answer: unknown): Candidate[] {
  const found: (Candidate & { depth: number })[] = [];
  const add = (path: string, records: readonly Record<string, unknown>[], depth: number): void => {
    found.push({ path, count: records.length, members: membersOf(records), depth });
  };
  const walk = (values: readonly unknown[], path: string, depth: number): void => {
    if (depth > mostDepth || found.length > mostCandidates * 4) return;
    const lists = values.filter(Array.isArray);
    if (lists.length > 0) {
      const items = lists.flat(1);
      const records = items.filter(isObject);
      if (records.length > 0) {
        add(`${path}[*]`, records, depth);
        walk(records, `${path}[*]`, depth + 1);
      }
      return;
    }
    const objects = values.filter(isObject).slice(0, 200);
    const keyed = depth > 0 ? objects.flatMap((each) => Object.values(each)) : [];
    // Records that stand under their identifiers: {"NRK-1": {…}, "NRK-2": {…}}.
    if (areAlike(keyed)) add(`${path}.*`, keyed, depth);
    const names = new Set(objects.flatMap((each) => Object.keys(each)).slice(0, 2000));
    for (const name of names) {
      const tables = objects.flatMap((each) => {
        const columns = namesBeside(each, name);
        return columns ? [{ columns, count: (each[name] as unknown[]).length }] : [];
      });
      const [first] = tables;
      if (first) {
        const count = tables.reduce((sum, each) => sum + each.count, 0);
        found.push({ path: `${path}${step(name)}[*]`, count, members: first.columns, depth });
      }
      walk(
        objects.flatMap((each) => (each[name] === undefined ? [] : [each[name]])),
        `${path}${step(name)}`,
        depth + 1,
      );
    }
  };
  walk([answer], '$', 0);
  // A list within records says more of the same thing: it comes after the list that it is in.
  const nesting = (path: string): number => path.split('[*]').length;
  const sorted = found.sort(
    (a, b) => nesting(a.path) - nesting(b.path) || b.count - a.count || a.depth - b.depth,
  );
  if (isObject(answer)) sorted.push({ path: '$', count: 1, members: membersOf([answer]), depth: 0 });
  return sorted.slice(0, mostCandidates).map(({ path, count, members }) => ({ path, count, members }));
}
