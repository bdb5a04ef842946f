import { randomUUID } from 'node:crypto';
import { redirect } from 'react-router';
import { z } from 'zod';
import { forms } from '#core/dataset/kept/forms.ts';
import { FileReading } from '#core/dataset/upload.ts';
import { FieldName } from '#core/value/field/field.ts';
import { fieldTypes } from '#core/value/field/types.ts';
import { type Problem, problemOf } from '#core/value/problem/problem.ts';
import { guardedAction, guardedLoader, type Signed, to } from '#server/guard.ts';
import { note } from '#server/store/audit.ts';
import { allDataSets } from '#server/store/data-sets.ts';
import { readAside } from '#server/uploads/aside.ts';
import { Page } from '../ui/page.tsx';
import { UploadPage } from '../workroom/upload-page.tsx';
import type { Route } from './+types/upload';

/** The id is made here, so that a form sent twice makes one data set. */
export const loader = guardedLoader(to('build'), async ({ request }: Signed<Route.LoaderArgs>) => {
  const uploads = (await allDataSets()).filter(({ definition }) => definition.request.kind === 'upload');
  return {
    id: randomUUID(),
    into: new URL(request.url).searchParams.get('into') ?? '',
    dataSets: uploads.map(({ id, name, definition }) => ({
      id,
      name,
      many: definition.noun.many,
      fields: definition.fields.map((field) => ({ name: field.name, type: field.type })),
    })),
  };
});

const File = { file: z.uuid(), reading: FileReading };
const word = z.string().trim().min(1).max(200);
const Body = z.discriminatedUnion('what', [
  z.object({
    what: z.literal('new'),
    ...File,
    id: z.uuid(),
    name: z.string().trim().min(1).max(500),
    noun: z.object({ one: word, many: word }),
    fields: z
      .array(z.object({ name: FieldName, type: z.enum(fieldTypes) }))
      .min(1)
      .max(1600),
    forms: z.record(FieldName, z.enum(forms)).optional(),
    key: FieldName.optional(),
    title: FieldName.optional(),
    units: z.record(FieldName, z.string().max(4)).optional(),
  }),
  z.object({ what: z.literal('later'), ...File, into: z.uuid(), how: z.enum(['replace', 'add']) }),
]);

/** Accepts a file: a new data set with its records, or later records for one there is. */
export const action = guardedAction(
  to('build'),
  async ({ request, user }: Signed<Route.ActionArgs>): Promise<{ problem: Problem } | Response> => {
    const doing = 'accepting the file';
    const body = Body.safeParse(await request.json().catch(() => null));
    if (!body.success) {
      const why = z.prettifyError(body.error);
      return { problem: { code: 'bad-request', doing, why, mend: 'Correct it and try again.' } };
    }
    try {
      if (body.data.what === 'new') {
        await readAside('acceptNew', { ...body.data, by: user.id });
        await note(user.id, 'made a data set of a file', body.data.name);
        return redirect(`/workroom/data-sets/${body.data.id}`);
      }
      await readAside('acceptLater', body.data);
      await note(user.id, 'uploaded a later file', body.data.into);
      return redirect(`/workroom/data-sets/${body.data.into}/records`);
    } catch (thrown) {
      return { problem: problemOf(thrown, doing) };
    }
  },
);

export default function Upload({ loaderData }: Route.ComponentProps) {
  return (
    <Page
      title="Upload a file"
      lead="A spreadsheet (XLSX), CSV and other delimited text, JSON, or Parquet, packed with gzip or not. Nothing is kept until you accept it."
      wide
    >
      <UploadPage {...loaderData} />
    </Page>
  );
}
