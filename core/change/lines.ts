import type { Action } from '#core/dataset/change/schema.ts';
import type { DataSet } from '#core/dataset/schema.ts';
import type { World } from '#core/dataset/world.ts';
import { keyColumn, writableColumn } from './writable.ts';

/* Records that are added together with the one that they are of, in one go: a requisition with its lines. Pure. */

/** What of a data set's actions can say what is asked of each line. */
export const lineActions = ({ changes }: DataSet): readonly Action[] =>
  (changes?.actions ?? []).filter(({ way }) => way === 'insert');

/** An action that adds a line, without what says which record it is of: that is known once there is one. */
export const lineAction = (action: Action, refers: string): Action => ({
  ...action,
  sets: action.sets.filter(({ field }) => field !== refers),
});

/**
 * Why an action cannot add lines together with a record, or null. `linesAs`: how sources of this kind take them. `lines`: the data set that they
 * are of, undefined where it has gone; `world`: what that one has to know.
 */
export function linesProblem(
  { way, lines: said }: Action,
  { source, changes }: DataSet,
  lines: DataSet | undefined,
  world: World,
  linesAs: 'rows' | 'member' | null,
): string | null {
  if (!said) return null;
  if (way !== 'insert') return 'lines come with a record that is added, and it adds none';
  if (!lines) return 'the data set of its lines no longer exists';
  if (lines.source !== source) return 'its lines are of another source';
  const action = lineActions(lines).find(({ name }) => name === said.action);
  if (!action) return 'nothing says what is asked of each of its lines';
  if (linesAs === null) return 'its source takes no lines together with a record';
  if (linesAs === 'member' && said.member === undefined)
    return 'nothing says what the service calls its lines';
  if ((changes?.calls?.insert?.body ?? '').trim() !== '')
    return 'the call that adds a record has a body of its own, which lines cannot go into';
  const key = keyColumn(lines, world);
  if (!key.ok) return `of its lines, ${key.why}`;
  for (const field of [said.refers, ...action.sets.map((set) => set.field)]) {
    const column = writableColumn(lines, field, world);
    if (!column.ok) return `of its lines, “${field}” cannot be set: ${column.why}`;
  }
  return null;
}
