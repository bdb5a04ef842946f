import type { z } from 'zod';
import type { AskedFollowUp, FollowUpAnswer } from '#core/change/follow-up.ts';
import { recordPlace } from '#core/change/place.ts';
import type { Context } from '#core/dashboard/flow/context.ts';
import type { DataSet } from '#core/dataset/schema.ts';
import { ProblemError } from '#core/value/problem/problem.ts';
import { findRecord } from '../panes/drill.ts';
import { actRefusal } from '../permission.ts';
import { addFollowUp, deskActors, followUpOf } from '../store/follow-ups.ts';
import type { User } from '../store/people.ts';
import { tellOfFollowUp } from './tell.ts';

/* Following up on a record that a pane shows. */

interface Followed {
  readonly dataSetId: string;
  readonly dataSet: DataSet;
  readonly title: string;
}

/** The record that is followed up, where a pane shows it and its data set lets people. Throws a {@link ProblemError} otherwise. */
async function followed(pane: string, key: string, context: Context, signal: AbortSignal): Promise<Followed> {
  const doing = 'following up on a record';
  const { use, dataSet, detail } = await findRecord({ pane, key }, context, signal);
  if (!dataSet.followUp)
    throw new ProblemError({
      code: 'forbidden',
      doing,
      why: 'these records are not followed up here',
      mend: 'Reload the page: it may have been published anew.',
    });
  if (!detail.record)
    throw new ProblemError({
      code: 'missing',
      doing,
      why: `there is no such ${dataSet.noun.one} any more`,
      mend: 'Go back to the list.',
    });
  return { dataSetId: use.dataSet, dataSet, title: detail.title ?? key };
}

/** How a record stands, who it can be given to, and whether this person may say something of it. */
export async function followUpFor(
  { pane, key }: { readonly pane: string; readonly key: string },
  { deskId, context, user }: { readonly deskId: string; readonly context: Context; readonly user: User },
  signal: AbortSignal,
): Promise<FollowUpAnswer> {
  const { dataSetId, dataSet } = await followed(pane, key, context, signal);
  const place = recordPlace(dataSetId, dataSet);
  const [view, people] = await Promise.all([followUpOf({ deskId, place, key }), deskActors(deskId)]);
  return { view, people, refusal: actRefusal(user, deskId) };
}

/** Notes what a person says of a record; every open page over those records is told. */
export async function sayOfRecord(
  asked: z.infer<typeof AskedFollowUp>,
  {
    deskId,
    dashboardId,
    context,
    user,
  }: {
    readonly deskId: string;
    readonly dashboardId: string;
    readonly context: Context;
    readonly user: User;
  },
  signal: AbortSignal,
): Promise<void> {
  const { pane, key, note, state, due } = asked;
  const { dataSetId, dataSet, title } = await followed(pane, key, context, signal);
  const givenTo = (await deskActors(deskId)).find(({ id }) => id === asked.givenTo) ?? null;
  if (asked.givenTo !== null && !givenTo)
    throw new ProblemError({
      code: 'bad-request',
      doing: 'giving it to somebody',
      why: 'that person may not change things on this desk',
      mend: 'Choose somebody else.',
    });
  await addFollowUp({
    deskId,
    dashboardId,
    dataSetId,
    place: recordPlace(dataSetId, dataSet),
    key,
    pane,
    title,
    noun: dataSet.noun.one,
    by: user,
    note,
    state,
    due,
    givenTo,
  });
  await tellOfFollowUp(dataSetId);
}
