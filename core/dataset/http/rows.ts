import { valuesAt } from './json-path.ts';
import { isObject } from './members.ts';

/* Records whose fields are named once for all of them: {"columns": ["gate", "took"], "rows": [["Norrick", 4], …]}. */

/** What a column may be called by, where each is described by an object. */
const naming = ['name', 'field', 'key', 'id', 'title', 'label'];
const usual = new Set(['columns', 'fields', 'headers', 'header', 'names', 'schema']);

/** The names that a list says, as texts or as objects with a name each; null where it says none, or one of them twice. */
function namesIn(list: unknown): string[] | null {
  if (!Array.isArray(list) || list.length === 0) return null;
  const by = naming.find((key) => list.every((each) => isObject(each) && typeof each[key] === 'string'));
  const names = by === undefined ? list : list.map((each) => (each as Record<string, unknown>)[by]);
  if (!names.every((name): name is string => typeof name === 'string' && name !== '')) return null;
  return new Set(names).size === names.length ? names : null;
}

/**
 * The names of the columns of rows, said beside them; null where what stands there are no rows, or nothing beside them has a
 * name for each value.
 */
export function namesBeside(parent: Record<string, unknown>, rowsAt: string): string[] | null {
  const rows = parent[rowsAt];
  if (!Array.isArray(rows) || rows.length === 0 || !rows.every(Array.isArray)) return null;
  const widest = Math.max(...rows.slice(0, 1000).map((row) => row.length));
  const found = Object.entries(parent).flatMap(([name, value]) => {
    const names = name === rowsAt ? null : namesIn(value);
    return names?.length === widest ? [{ name, names }] : [];
  });
  return (found.find(({ name }) => usual.has(name.toLowerCase())) ?? found[0])?.names ?? null;
}

/** `$.result.rows[*]` as the place of what holds the rows, and the name that they have in it. */
const rowsPath = /^(.*?)(?:\.([A-Za-z_]\w*)|\[("(?:[^"\\]|\\.)*")\])\[\*\]$/s;

/**
 * The values at a JSONPath, rows as objects by the names that this very answer gives their columns, whatever their order.
 * A row with more values than there are names stays as it is. Throws what says why a path cannot be one.
 */
export function recordValues(path: string, body: unknown): unknown[] {
  const found = valuesAt(path, body);
  const place = rowsPath.exec(path);
  if (!place?.[1] || !found.some(Array.isArray)) return found;
  const name = place[2] ?? (JSON.parse(place[3] ?? '""') as string);
  return valuesAt(place[1], body).flatMap((parent): unknown[] => {
    const rows = isObject(parent) && Array.isArray(parent[name]) ? (parent[name] as unknown[]) : [];
    const names = isObject(parent) ? namesBeside(parent, name) : null;
    if (!names) return rows;
    return rows.map((row) =>
      Array.isArray(row) && row.length <= names.length
        ? Object.fromEntries(names.map((each, at) => [each, row[at] ?? null]))
        : row,
    );
  });
}
