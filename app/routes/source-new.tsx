import { randomUUID } from 'node:crypto';
import { redirect } from 'react-router';
import { z } from 'zod';
import { problemOf } from '#core/value/problem/problem.ts';
import { readForm } from '#server/forms.ts';
import { guardedAction, guardedLoader, notFound, type Signed, to } from '#server/guard.ts';
import { logFolders } from '#server/settings.ts';
import { firstLook } from '#server/sources/first-look.ts';
import { withUnstored } from '#server/sources/open.ts';
import { addableKinds, formValues, SourceInput, secretPlaces } from '#server/sources/source-input.ts';
import { note } from '#server/store/audit.ts';
import { addSource, changeSource, findSource, isBuiltIn, sourceWithSecret } from '#server/store/sources.ts';
import { zoneOf } from '#server/store/zone.ts';
import type { Connection } from '#sources/connection.ts';
import type { FormPart } from '#sources/form.ts';
import type { ConnectionReport } from '#sources/kind.ts';
import { kindOf } from '#sources/registry.ts';
import { ButtonLink } from '../ui/button.tsx';
import { Page } from '../ui/page.tsx';
import type { SourceAnswer } from '../workroom/answers.ts';
import { SourceForm } from '../workroom/source-form.tsx';
import type { Route } from './+types/source-new';

interface Start {
  id: string;
  /** The source that is changed, and what the form begins with. */
  change: string | null;
  values: Record<string, string>;
  kinds: { name: string; label: string }[];
  /** What is asked for; or what is said of a source that is made here. */
  form: readonly FormPart[];
  isMade: boolean;
  zone: string;
}

/** The id is made here, so that a form sent twice adds one source. */
export const loader = guardedLoader(
  to('build'),
  async ({ request }: Signed<Route.LoaderArgs>): Promise<Start> => {
    const params = new URL(request.url).searchParams;
    const change = z.uuid().safeParse(params.get('change')).data ?? null;
    const source = change === null ? null : await findSource(change);
    if (change !== null && (!source || isBuiltIn(source.connection))) throw notFound('source');
    const wanted = addableKinds.find(({ name }) => name === params.get('kind')) ?? addableKinds[0];
    const name = source?.connection.kind ?? wanted?.name;
    if (!name) throw notFound('kind of source');
    return {
      id: change ?? randomUUID(),
      change,
      values: source ? { ...formValues(source.connection), name: source.name } : { kind: name },
      kinds: addableKinds,
      ...formOf(name),
      zone: await zoneOf(),
    };
  },
);

function formOf(kind: Connection['kind']): Pick<Start, 'form' | 'isMade'> {
  const { adding } = kindOf({ kind });
  if (adding && 'make' in adding) return { form: [{ part: 'words', words: adding.words }], isMade: true };
  return { form: adding?.form(logFolders()) ?? [], isMade: false };
}

/** Proves the connection, before anything is saved; saves it only when proved just now. */
export const action = guardedAction(to('build'), async ({ request, user }: Signed<Route.ActionArgs>) => {
  const submission = readForm(await request.formData(), SourceInput);
  const answer = (more: Partial<SourceAnswer>): SourceAnswer => ({
    result: submission.reply({ hideFields: ['secret'] }),
    report: null,
    problem: null,
    look: null,
    added: null,
    ...more,
  });
  if (submission.status !== 'success') return answer({});
  const { id, name, kind, intent, connection, change, path } = submission.value;
  if (connection === null) {
    const { adding } = kindOf({ kind });
    if (intent === 'prove' || change || !adding || !('make' in adding)) return answer({});
    const { connection: newConnection, key } = adding.make();
    const report: ConnectionReport = {
      facts: [],
      warnings: [],
      clockSkewMs: null,
      tookMs: 0,
      at: new Date().toISOString(),
    };
    await addSource({ id, name, connection: newConnection, report, secret: '', madeBy: user.id });
    await note(user.id, 'added a source', name);
    return answer({ added: { id, key } });
  }
  // A secret that is not typed again stays as it is, unless it would go to another address.
  const before = change ? await sourceWithSecret(change) : null;
  const isSamePlace = before !== null && secretPlaces(before.connection) === secretPlaces(connection);
  const secret = submission.value.secret || (isSamePlace ? before.secret : '');
  try {
    const outcome = await withUnstored({ id, connection, secret }, async (source) => ({
      report: await source.test(path),
      look: intent === 'prove' ? await firstLook(source, connection, path) : null,
    }));
    if (intent === 'prove') return answer(outcome);
    if (change) await changeSource(change, { name, connection, report: outcome.report, secret });
    else await addSource({ id, name, connection, report: outcome.report, secret, madeBy: user.id });
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
