import { z } from 'zod';
import { startOf } from '#core/dataset/outcome.ts';
import { DataSet } from '#core/dataset/schema.ts';
import { runChecks } from '#server/checks/run.ts';
import { guardedSave, refuseEdit, type SaveAnswer, saveAnswer, settledDataSet } from '#server/edit.ts';
import { idParam, postOnly, type Signed, to } from '#server/guard.ts';
import { askerOf } from '#server/people/asker.ts';
import { severalMatches } from '#server/shape/look-up.ts';
import { note } from '#server/store/audit.ts';
import { findDataSet, saveDataSet, worldOf } from '#server/store/data-sets.ts';
import { askForRefresh } from '#server/store/due.ts';
import type { User } from '#server/store/people.ts';
import { zoneOf } from '#server/store/zone.ts';
import type { Route } from './+types/data-set-save';

export const loader = postOnly;

const Body = z.object({
  name: z.string().trim().min(1, 'a name is needed').max(500),
  definition: DataSet,
  revision: z.int(),
});

/** Saves a data set over the revision that it was made of. */
export const action = guardedSave(
  to('build'),
  async ({ params, request, user }: Signed<Route.ActionArgs>): Promise<SaveAnswer> => {
    const id = idParam(params.id, 'data set');
    const body = Body.safeParse(await request.json().catch(() => null));
    if (!body.success) return refuseEdit(body.error);
    const settled = await settledDataSet(id, body.data.definition);
    if ('wrong' in settled) return settled.wrong;
    const { definition } = settled;
    const before = await findDataSet(id);
    const several = await newlySeveral(id, before?.definition, definition, user, request.signal);
    if (several.length > 0) return { state: 'refused', why: several };
    const saved = await saveDataSet({ id, ...body.data, definition, by: user.id });
    if (saved.ok) {
      await note(user.id, 'saved a data set', body.data.name);
      if (before && asksOtherwise(before.definition, definition)) await askForRefresh(id);
      else await runChecks({ id, definition, now: new Date() });
    }
    return saveAnswer(saved, ['The data set was saved with other fields, measures or names.']);
  },
);

/** Look-ups that find several where one was asked for, if the steps are others than before. */
async function newlySeveral(
  id: string,
  before: DataSet | undefined,
  definition: DataSet,
  person: User,
  signal: AbortSignal,
): Promise<string[]> {
  if (JSON.stringify(before?.steps) === JSON.stringify(definition.steps)) return [];
  const [world, zone] = await Promise.all([worldOf(definition), zoneOf(id)]);
  const clock = { now: new Date(), zone };
  return severalMatches({ id, definition, world, clock, person: askerOf(person), signal });
}

/** Whether kept records have to be fetched again: steps, words and measures are worked out over those there are. */
const asksOtherwise = (before: DataSet, after: DataSet): boolean =>
  after.keep !== undefined &&
  after.request.kind !== 'upload' &&
  JSON.stringify([before.request, before.keep, startOf(before).map(({ name, type }) => [name, type])]) !==
    JSON.stringify([after.request, after.keep, startOf(after).map(({ name, type }) => [name, type])]);
