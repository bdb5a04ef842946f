import { randomUUID } from 'node:crypto';
import type { SubmissionResult } from '@conform-to/react';
import { redirect } from 'react-router';
import { z } from 'zod';
import type { Problem } from '#core/problem/problem.ts';
import { readForm } from '#server/forms.ts';
import { guardedAction, guardedLoader, type Signed } from '#server/guard.ts';
import { note } from '#server/store/audit.ts';
import { addSource } from '#server/store/sources.ts';
import { addressOf, PostgresConnection } from '#sources/postgres/connection.ts';
import { type Proof, prove } from '#sources/postgres/prove.ts';
import { ButtonLink } from '../ui/button.tsx';
import { Page } from '../ui/page.tsx';
import { SourceForm } from '../workshop/source-form.tsx';
import type { Route } from './+types/source-new';

const SourceAsked = PostgresConnection.omit({ kind: true }).extend({
  id: z.uuid(),
  name: z.string().trim().min(1, 'a name is needed').max(500),
  password: z.string().max(1000).default(''),
  intent: z.enum(['prove', 'add']),
});

/** The id is made here, so that a form sent twice adds one source. */
export const loader = guardedLoader<Route.LoaderArgs, { id: string }>('build', () => ({ id: randomUUID() }));

export type SourceAnswer = { result: SubmissionResult; proof: Proof | null; problem: Problem | null };

/** Proves the connection, before anything is saved; saves it only when proved just now. */
export const action = guardedAction('build', async ({ request, user }: Signed<Route.ActionArgs>) => {
  const submission = readForm(await request.formData(), SourceAsked);
  const answer = (more: Partial<SourceAnswer>): SourceAnswer => ({
    result: submission.reply({ hideFields: ['password'] }),
    proof: null,
    problem: null,
    ...more,
  });
  if (submission.status !== 'success') return answer({});
  const { id, name, password, intent, ...where } = submission.value;
  const connection: PostgresConnection = { kind: 'postgres', ...where };
  const proved = await prove(addressOf(connection, password), () => new Date());
  if (!proved.ok) return answer({ problem: proved.problem });
  if (intent === 'prove') return answer({ proof: proved.proof });
  await addSource({ id, name, connection, proof: proved.proof, password, madeBy: user.id });
  await note(user.id, 'added a source', name);
  return redirect(`/workshop/sources/${id}`);
});

export default function SourceNew({ loaderData, actionData }: Route.ComponentProps) {
  return (
    <Page
      title="Add a source"
      lead="A PostgreSQL database. It is proved before anything is saved; the password is stored encrypted and never shown again."
      action={<ButtonLink to="/workshop/upload">A file instead</ButtonLink>}
    >
      <SourceForm
        id={loaderData.id}
        answer={actionData && 'result' in actionData ? actionData : undefined}
        signedOut={!!actionData && 'signedOut' in actionData}
      />
    </Page>
  );
}
