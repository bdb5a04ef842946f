import { randomBytes, randomUUID } from 'node:crypto';
import type { SubmissionResult } from '@conform-to/react';
import { redirect } from 'react-router';
import { z } from 'zod';
import { type Problem, problemOf } from '#core/problem/problem.ts';
import { readForm } from '#server/forms.ts';
import { guardedAction, guardedLoader, notFound, type Signed } from '#server/guard.ts';
import { hashOfKey } from '#server/intake.ts';
import { logFolders } from '#server/settings.ts';
import { formValues, SourceAsked, secretPlaces } from '#server/sources/asked.ts';
import { firstLook } from '#server/sources/first-look.ts';
import { withUnstored } from '#server/sources/open.ts';
import { note } from '#server/store/audit.ts';
import { addSource, changeSource, findSource, openSource } from '#server/store/sources.ts';
import { zoneOf } from '#server/store/zone.ts';
import type { Proof } from '#sources/proof.ts';
import type { Tried } from '#sources/tried.ts';
import { ButtonLink } from '../ui/button.tsx';
import { Page } from '../ui/page.tsx';
import { SourceForm } from '../workroom/source-form.tsx';
import type { Route } from './+types/source-new';

interface Start {
  id: string;
  /** The source that is changed, and what the form begins with. */
  change: string | null;
  values: Record<string, string>;
  folders: string[];
  zone: string;
}

/** The id is made here, so that a form sent twice adds one source. */
export const loader = guardedLoader(
  'build',
  async ({ request }: Signed<Route.LoaderArgs>): Promise<Start> => {
    const params = new URL(request.url).searchParams;
    const change = params.get('change');
    const folders = logFolders();
    const zone = await zoneOf();
    if (change === null || !z.uuid().safeParse(change).success)
      return {
        id: randomUUID(),
        change: null,
        values: { kind: params.get('kind') ?? 'postgres' },
        folders,
        zone,
      };
    const source = await findSource(change);
    if (!source || source.connection.kind === 'upload') throw notFound('source');
    return {
      id: change,
      change,
      values: { ...formValues(source.connection), name: source.name },
      folders,
      zone,
    };
  },
);

export type SourceAnswer = {
  result: SubmissionResult;
  proof: Proof | null;
  problem: Problem | null;
  /** The first real records. */
  look: Tried | null;
  /** A new intake and its key, shown this once. */
  added: { id: string; key: string } | null;
};

/** Proves the connection, before anything is saved; saves it only when proved just now. */
export const action = guardedAction('build', async ({ request, user }: Signed<Route.ActionArgs>) => {
  const submission = readForm(await request.formData(), SourceAsked);
  const answer = (more: Partial<SourceAnswer>): SourceAnswer => ({
    result: submission.reply({ hideFields: ['secret'] }),
    proof: null,
    problem: null,
    look: null,
    added: null,
    ...more,
  });
  if (submission.status !== 'success') return answer({});
  const { id, name, intent, connection, change, path } = submission.value;
  if (connection === null) {
    if (intent === 'prove' || change) return answer({});
    const key = randomBytes(24).toString('base64url');
    const proof: Proof = {
      facts: [],
      warnings: [],
      clockSkewMs: null,
      tookMs: 0,
      at: new Date().toISOString(),
    };
    await addSource({
      id,
      name,
      connection: { kind: 'intake', keyHash: hashOfKey(key) },
      proof,
      secret: '',
      madeBy: user.id,
    });
    await note(user.id, 'added a source', name);
    return answer({ added: { id, key } });
  }
  // A secret that is not typed again stays as it is, unless it would go to another address.
  const before = change ? await openSource(change) : null;
  const isSamePlace = before !== null && secretPlaces(before.connection) === secretPlaces(connection);
  const secret = submission.value.secret || (isSamePlace ? before.secret : '');
  try {
    const proved = await withUnstored({ id, connection, secret }, async (kind) => ({
      proof: await kind.prove(path),
      look: intent === 'prove' ? await firstLook(kind, connection, path) : null,
    }));
    if (intent === 'prove') return answer(proved);
    if (change) await changeSource(change, { name, connection, proof: proved.proof, secret });
    else await addSource({ id, name, connection, proof: proved.proof, secret, madeBy: user.id });
    await note(user.id, change ? 'changed a source' : 'added a source', name);
    return redirect(`/workroom/sources/${id}`);
  } catch (thrown) {
    return answer({ problem: problemOf(thrown, 'proving the source') });
  }
});

export default function SourceNew({ loaderData, actionData }: Route.ComponentProps) {
  const { change, values } = loaderData;
  return (
    <Page
      title={change ? `Change ${values.name}` : 'Add a source'}
      lead="We test the connection before saving. Credentials are encrypted and never shown again."
      action={!change && <ButtonLink to="/workroom/upload">A file instead</ButtonLink>}
      wide
    >
      <SourceForm
        {...loaderData}
        answer={actionData && 'result' in actionData ? actionData : undefined}
        signedOut={!!actionData && 'signedOut' in actionData}
      />
    </Page>
  );
}
