import type { Asker } from '#core/ask/condition/resolve.ts';
import type { Action, Way } from '#core/dataset/change/schema.ts';
import { mostAtOnce } from '#core/dataset/change/schema.ts';
import type { DataSet } from '#core/dataset/schema.ts';
import type { World } from '#core/dataset/world.ts';
import type { Tone } from '#core/value/field/types.ts';
import { keyColumn, writableColumn } from './writable.ts';

/* What can be done to the records that a pane shows. */

/** An action as it stands on its button. */
export interface OfferedAction {
  readonly name: string;
  readonly label: string;
  readonly tone?: Tone | undefined;
  readonly way: Way;
  /** This many records at once. */
  readonly most: number;
  /** What is shown once it is done. */
  readonly after?: Action['after'];
}

export interface Offers {
  readonly actions: readonly OfferedAction[];
  /** The fields that can be changed in their place. */
  readonly inPlace: readonly string[];
  /** Those of them that cannot be blank. */
  readonly needed: readonly string[];
  /** Why the person who looks may do none of it; null where they may. */
  readonly refusal: string | null;
}

/** Whether somebody is among those whom an action is for. Who builds could make it another, so it is for them too. */
export const isFor = ({ groups }: Pick<Action, 'groups'>, person: Asker | undefined): boolean =>
  groups === undefined ||
  person?.seesAll === true ||
  (person?.attributes?.groups ?? []).some((group) => groups.includes(group));

/** Why an action cannot be done to the records of a data set, or null. */
export function actionProblem(action: Action, dataSet: DataSet, world: World): string | null {
  const key = keyColumn(dataSet, world);
  if (!key.ok) return key.why;
  for (const { field } of action.sets) {
    if (action.way === 'update' && field === dataSet.key) return 'what identifies a record cannot be set';
    const column = writableColumn(dataSet, field, world);
    if (!column.ok) return `“${field}” cannot be set: ${column.why}`;
  }
  if (action.way === 'update' && action.sets.length === 0) return 'it sets no field';
  const { calls } = dataSet.changes ?? {};
  if (calls && !calls[action.way])
    return `nothing says by which call the service is told to ${wayWords[action.way]} a record`;
  return null;
}

const wayWords: Readonly<Record<Way, string>> = { update: 'change', insert: 'add', remove: 'remove' };

/** What a pane offers of all that can be done. */
export type PaneOffers = Omit<Offers, 'refusal'>;

/** What of a data set's actions a pane offers, without what cannot be done. */
export function offersOf(
  pane: {
    readonly actions?: readonly string[] | undefined;
    readonly inPlace?: readonly string[] | undefined;
  },
  dataSet: DataSet,
  world: World,
): PaneOffers {
  const { changes } = dataSet;
  if (!changes || !keyColumn(dataSet, world).ok) return { actions: [], inPlace: [], needed: [] };
  const columns = (pane.inPlace ?? []).flatMap((field) => {
    if (field === dataSet.key || !changes.inPlace.includes(field)) return [];
    if (changes.calls && !changes.calls.update) return [];
    const found = writableColumn(dataSet, field, world);
    return found.ok ? [{ field, isNeeded: found.column.filled === true }] : [];
  });
  return {
    actions: (pane.actions ?? []).flatMap((name): OfferedAction[] => {
      const action = changes.actions.find((each) => each.name === name);
      if (!action || actionProblem(action, dataSet, world) !== null) return [];
      const { label, tone, way, most = mostAtOnce, after } = action;
      return [{ name, label, ...(tone ? { tone } : {}), way, most, ...(after ? { after } : {}) }];
    }),
    inPlace: columns.map(({ field }) => field),
    needed: columns.flatMap(({ field, isNeeded }) => (isNeeded ? [field] : [])),
  };
}
