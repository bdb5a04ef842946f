import type { Dashboard } from './schema.ts';

/** Equal as JSON, whatever the order of the keys. */
export function sameJson(a: unknown, b: unknown): boolean {
  if (a === b) return true;
  if (typeof a !== 'object' || typeof b !== 'object' || a === null || b === null) return false;
  if (Array.isArray(a) || Array.isArray(b))
    return (
      Array.isArray(a) &&
      Array.isArray(b) &&
      a.length === b.length &&
      a.every((each, index) => sameJson(each, b[index]))
    );
  const [left, right] = [a, b].map((each) => Object.entries(each).filter(([, value]) => value !== undefined));
  if (!left || !right || left.length !== right.length) return false;
  const other = new Map(right);
  return left.every(([key, value]) => other.has(key) && sameJson(value, other.get(key)));
}

/** What differs between two versions of a dashboard, one sentence for each difference. */
export function dashboardChanges(before: Dashboard, after: Dashboard): string[] {
  const changes: string[] = [];
  if (before.title !== after.title) changes.push(`The title is now “${after.title}”.`);
  if (!sameJson(before.scope, after.scope)) changes.push('The reader filters changed.');
  const name = (pane: Dashboard['panes'][number]): string => pane.title || `an untitled ${pane.kind}`;
  const was = new Map(before.panes.map((pane) => [pane.id, pane]));
  for (const pane of after.panes) {
    const old = was.get(pane.id);
    was.delete(pane.id);
    if (!old) changes.push(`“${name(pane)}” was added.`);
    else if (!sameJson({ ...old, place: null }, { ...pane, place: null }))
      changes.push(`The brief of “${name(pane)}” changed.`);
    else if (!sameJson(old.place, pane.place)) changes.push(`“${name(pane)}” was moved.`);
  }
  for (const pane of was.values()) changes.push(`“${name(pane)}” was removed.`);
  return changes;
}
