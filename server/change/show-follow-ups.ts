import { randomUUID } from 'node:crypto';
import { followUpData, followUpStep, isFollowUpsOf } from '#core/change/follow-up-data.ts';
import { startOf } from '#core/dataset/outcome.ts';
import type { DataSet } from '#core/dataset/schema.ts';
import { noMatchSubject } from '#core/dataset/step/warning-subjects.ts';
import { followUpsConnection } from '#sources/follow-ups/connection.ts';
import { type SaveAnswer, saveAnswer, settledDataSet } from '../edit.ts';
import { note } from '../store/audit.ts';
import { addDataSet, allDataSets, findDataSet, saveDataSet } from '../store/data-sets.ts';
import type { User } from '../store/people.ts';
import { builtInSource } from '../store/sources.ts';

/* What people noted of records, as fields of those records. */

/** The data set of what people noted of the records of another; null while there is none. */
const findFollowUpsOf = async (id: string): Promise<string | null> =>
  (await allDataSets()).find(({ definition }) => isFollowUpsOf(definition, id))?.id ?? null;

const looksUp = ({ steps = [] }: DataSet, dataSet: string | null): boolean =>
  steps.some((step) => step.kind === 'lookUp' && step.from.dataSet === dataSet);

/** Whether the fields of a data set say what people noted of its records. */
export const showsFollowUps = async (id: string, definition: DataSet): Promise<boolean> =>
  looksUp(definition, await findFollowUpsOf(id));

async function makeFollowUpsOf(
  id: string,
  name: string,
  definition: DataSet,
  by: User,
): Promise<string | null> {
  const followUpSet = followUpData(await builtInSource(followUpsConnection, by.id), id, definition);
  if (!followUpSet) return null;
  const added = { id: randomUUID(), name: `Follow-ups of ${name.toLowerCase()}`, definition: followUpSet };
  await addDataSet({ ...added, by: by.id });
  await note(by.id, 'made a data set', added.name);
  return added.id;
}

/** Adds what people noted of each record to the fields of a data set, by a step that looks it up. */
export async function showFollowUps(
  { id, revision }: { readonly id: string; readonly revision: number },
  by: User,
): Promise<SaveAnswer> {
  const refused = (why: string): SaveAnswer => ({ state: 'refused', why: [why] });
  const stored = await findDataSet(id);
  if (!stored) return refused('the data set has been removed');
  const { name, definition } = stored;
  const noted = (await findFollowUpsOf(id)) ?? (await makeFollowUpsOf(id, name, definition, by));
  if (!noted) return refused('nothing identifies its records, so nothing can be noted of one');
  if (looksUp(definition, noted)) return refused('they are among its fields already');
  const step = followUpStep(definition, noted);
  if (!step) return refused('nothing identifies its records, so nothing can be noted of one');
  const settled = await settledDataSet(id, {
    ...definition,
    start: [...startOf(definition)],
    steps: [...(definition.steps ?? []), step],
    // Of most records nobody has noted anything, as is expected.
    acceptedWarnings: [...(definition.acceptedWarnings ?? []), noMatchSubject(step.id)],
  });
  if ('wrong' in settled) return settled.wrong;
  const saved = await saveDataSet({ id, name, definition: settled.definition, revision, by: by.id });
  if (saved.ok) await note(by.id, 'saved a data set', name);
  return saveAnswer(saved, ['The data set was saved with other fields, measures or names.']);
}
