import { z } from 'zod';
import { DataSet } from '#core/dataset/schema.ts';
import { guardedSave, refuseEdit, settledDataSet } from '#server/edit.ts';
import { postOnly, type Signed, to } from '#server/guard.ts';
import { note } from '#server/store/audit.ts';
import { addDataSet } from '#server/store/data-sets.ts';
import { askForRefresh } from '#server/store/due.ts';
import type { Route } from './+types/data-set-add';

export const loader = postOnly;

const Body = z.object({
  id: z.uuid(),
  name: z.string().trim().min(1, 'a name is needed').max(500),
  definition: DataSet,
});

/** Adds a data set, and says where it is. */
export const action = guardedSave(to('build'), async ({ request, user }: Signed<Route.ActionArgs>) => {
  const body = Body.safeParse(await request.json().catch(() => null));
  if (!body.success) return refuseEdit(body.error);
  const { id, name } = body.data;
  const settled = await settledDataSet(id, body.data.definition);
  if ('wrong' in settled) return settled.wrong;
  const { definition } = settled;
  await addDataSet({ id, name, definition, by: user.id });
  await note(user.id, 'made a data set', name);
  if (definition.keep) await askForRefresh(id);
  return { state: 'saved', revision: 0, to: `/workroom/data-sets/${id}` };
});
