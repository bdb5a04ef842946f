import { z } from 'zod';
import { type AskedFollowUp, type FollowUpAnswer, mostFileBytes, mostFiles } from '#core/change/follow-up.ts';
import type { Context } from '#core/dashboard/flow/context.ts';
import type { DataSet } from '#core/dataset/schema.ts';
import { ProblemError } from '#core/value/problem/problem.ts';
import { findRecord } from '../panes/opened-record.ts';
import { actRefusal } from '../permission.ts';
import { addFollowUp, deskActors, fileOf, followUpOf, noteSeen } from '../store/follow-ups.ts';
import type { User } from '../store/people.ts';
import { placeOfRecords } from '../store/record-place.ts';
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
      mend: 'Reload the page: it may have been published again.',
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
  const place = await placeOfRecords(dataSetId, dataSet);
  const [view, people] = await Promise.all([followUpOf({ deskId, place, key }, user.id), deskActors(deskId)]);
  return { view, people, refusal: actRefusal(user, deskId) };
}

interface Looking {
  readonly deskId: string;
  readonly context: Context;
}

/** Notes that a person has all that was said of a record before them. */
export async function seeFollowUp(
  { pane, key }: { readonly pane: string; readonly key: string },
  { deskId, context, user }: Looking & { readonly user: User },
  signal: AbortSignal,
): Promise<void> {
  const { dataSetId, dataSet } = await followed(pane, key, context, signal);
  await noteSeen({ deskId, place: await placeOfRecords(dataSetId, dataSet), key }, user.id);
}

/** A file that was noted of a record that a pane shows; null where there is none. */
export async function fileNotedOf(
  { pane, key }: { readonly pane: string; readonly key: string },
  file: string,
  { deskId, context }: Looking,
  signal: AbortSignal,
): Promise<{ readonly name: string; readonly bytes: Buffer } | null> {
  if (!z.uuid().safeParse(file).success) return null;
  const { dataSetId, dataSet } = await followed(pane, key, context, signal);
  return fileOf({ deskId, place: await placeOfRecords(dataSetId, dataSet), key }, file);
}

/** A name that any system can store a file under. */
const storedName = (name: string): string =>
  // biome-ignore lint/suspicious/noControlCharactersInRegex: those are what no name may have
  name.replaceAll(/[\u0000-\u001f\u007f/\\:*?"<>|]/g, '_').slice(-200) || 'file';

/** The files of a form, as they are stored. Throws a {@link ProblemError} where there are too many, or they are too large. */
export async function filesIn(form: FormData): Promise<{ name: string; bytes: Buffer }[]> {
  const files = form.getAll('file').filter((each) => each instanceof File);
  const refused = (why: string, mend: string): ProblemError =>
    new ProblemError({ code: 'too-much', doing: 'noting files', why, mend });
  if (files.length > mostFiles)
    throw refused(`${mostFiles} files are the most that one note may have`, 'Note the others in another.');
  if (files.reduce((sum, { size }) => sum + size, 0) > mostFileBytes)
    throw refused(
      `together they are larger than ${mostFileBytes / 1e6} MB`,
      'Leave one out, or make it smaller.',
    );
  return Promise.all(
    files.map(async (file) => ({
      name: storedName(file.name),
      bytes: Buffer.from(await file.arrayBuffer()),
    })),
  );
}

/** Notes what a person says of a record; every open page over those records is told. */
export async function sayOfRecord(
  said: z.infer<typeof AskedFollowUp>,
  files: readonly { readonly name: string; readonly bytes: Buffer }[],
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
  const { pane, key, note, state, due } = said;
  const { dataSetId, dataSet, title } = await followed(pane, key, context, signal);
  const actors = await deskActors(deskId);
  const givenTo = actors.find(({ id }) => id === said.givenTo) ?? null;
  const isNobodyElse = said.tells.every((person) => actors.some(({ id }) => id === person));
  if ((said.givenTo !== null && !givenTo) || !isNobodyElse)
    throw new ProblemError({
      code: 'bad-request',
      doing: 'telling somebody',
      why: 'that person may not change things on this desk',
      mend: 'Choose somebody else.',
    });
  await addFollowUp({
    deskId,
    dashboardId,
    dataSetId,
    place: await placeOfRecords(dataSetId, dataSet),
    key,
    pane,
    title,
    noun: dataSet.noun.one,
    by: user,
    note,
    state,
    due,
    givenTo,
    tells: said.tells,
    files,
  });
  await tellOfFollowUp(dataSetId);
}
