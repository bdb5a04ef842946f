import { data, Form, redirect, useFetcher, useNavigation } from 'react-router';
import { guardedAction, guardedLoader, idParam, notFound, type Signed, to } from '#server/guard.ts';
import { readAccount } from '#server/people/account-form.ts';
import { endTwoStep } from '#server/people/two-step.ts';
import {
  changeAccount,
  endSessionsOf,
  findAccount,
  listSessions,
  removeAccount,
} from '#server/store/accounts.ts';
import { note } from '#server/store/audit.ts';
import { listDesks } from '#server/store/desks.ts';
import { listGroups } from '#server/store/groups.ts';
import { pageClock } from '#server/store/zone.ts';
import { AccountFields } from '../administration/account-fields.tsx';
import { SessionsList } from '../administration/sessions-list.tsx';
import { Button } from '../ui/button.tsx';
import { ConfirmRemove } from '../ui/confirm-remove.tsx';
import { TextField } from '../ui/field.tsx';
import { Wrong } from '../ui/message.tsx';
import { Page, Section } from '../ui/page.tsx';
import type { Route } from './+types/person';

export const loader = guardedLoader(
  to('administer', 'the installation'),
  async ({ params, context }: Signed<Route.LoaderArgs>) => {
    const id = idParam(params.id, 'person');
    const [account, sessions, desks, groups, clock] = await Promise.all([
      findAccount(id),
      listSessions(id, context.token),
      listDesks(),
      listGroups(),
      pageClock(),
    ]);
    if (!account) throw notFound('person');
    return { account, sessions, desks, groups, clock };
  },
);

interface Answer {
  readonly problem?: string;
  readonly saved?: string;
}

export const action = guardedAction(
  to('administer', 'the installation'),
  async ({ params, request, user, context }: Signed<Route.ActionArgs>) => {
    const id = idParam(params.id, 'person');
    const account = await findAccount(id);
    if (!account) throw notFound('person');
    const form = await request.formData();
    const refused = (problem: string) => data<Answer>({ problem }, { status: 400 });
    switch (form.get('intent')) {
      case 'end': {
        const session = form.get('session');
        await endSessionsOf(
          id,
          typeof session === 'string' ? { id: session } : { except: id === user.id ? context.token : null },
        );
        await note(user.id, 'signed somebody out', account.email);
        return data<Answer>({});
      }
      case 'one step':
        await endTwoStep(id);
        await note(user.id, 'ended the two-step sign-in of somebody', account.email);
        return data<Answer>({});
      case 'remove': {
        const outcome = await removeAccount(id);
        if (!outcome.ok) return refused(outcome.why);
        await note(user.id === id ? null : user.id, 'removed a person', account.email);
        throw redirect('/administration/people');
      }
      default: {
        const read = readAccount(form);
        if (!read.ok) return refused(read.wrong);
        const outcome = await changeAccount(id, read.value);
        if (!outcome.ok) return refused(outcome.why);
        await note(user.id, 'changed what somebody may do', account.email);
        return data<Answer>({ saved: JSON.stringify(read.value) });
      }
    }
  },
);

export default function Person({ loaderData, actionData }: Route.ComponentProps) {
  const { account, sessions, desks, groups, clock } = loaderData;
  const busy = useNavigation().state !== 'idle';
  const fetcher = useFetcher<Answer>();
  const send = (fields: Record<string, string>): void => void fetcher.submit(fields, { method: 'post' });
  const answer = actionData && 'signedOut' in actionData ? undefined : actionData;
  return (
    <Page title={account.name} lead={account.email}>
      <div className="grid gap-x-12 gap-y-10 lg:grid-cols-[minmax(0,1.4fr)_minmax(0,1fr)]">
        <Section title="What they may do">
          <Form key={account.id} method="post" className="flex flex-col gap-4 pt-2">
            <TextField label="Name" name="name" required maxLength={200} defaultValue={account.name} />
            <AccountFields desks={desks} groups={groups} account={account} />
            {answer?.problem && <Wrong>{answer.problem}</Wrong>}
            <div className="flex items-center gap-3">
              <Button type="submit" look="main" disabled={busy}>
                {busy ? 'Saving …' : 'Save'}
              </Button>
              {answer?.saved !== undefined && !busy && (
                <span role="status" className="text-small text-slate">
                  Saved. It holds from their next page on.
                </span>
              )}
            </div>
          </Form>
        </Section>
        <div className="flex min-w-0 flex-col gap-8">
          <Section
            title="Signed in"
            action={
              sessions.some(({ isThis }) => !isThis) && (
                <Button look="quiet" onClick={() => send({ intent: 'end' })}>
                  Sign out everywhere
                </Button>
              )
            }
          >
            <SessionsList
              sessions={sessions}
              clock={clock}
              onEnd={(session) => send({ intent: 'end', session })}
            />
          </Section>
          <Section title="Two-step sign-in">
            {account.hasTwoSteps ? (
              <div className="flex items-baseline justify-between gap-3 py-1.5">
                <span>On</span>
                <ConfirmRemove
                  what={`the second step of ${account.name}`}
                  goesWith={['Their password alone signs them in, until they begin it again.']}
                  ending="For somebody who has lost their device."
                  trigger={<Button look="quiet">Turn off</Button>}
                  onRemove={() => send({ intent: 'one step' })}
                />
              </div>
            ) : (
              <p className="py-1.5 text-muted">Off. They turn it on under “Your account”.</p>
            )}
          </Section>
          <Section title="Leaving">
            <div className="flex flex-col items-start gap-2 pt-2">
              <ConfirmRemove
                what={account.name}
                goesWith={[
                  'They are signed out at once.',
                  'Their saved scopes go. What they built, changed and noted stays under their name.',
                ]}
                ending="They can be invited again, as somebody new."
                trigger={<Button>Remove {account.name}</Button>}
                onRemove={() => send({ intent: 'remove' })}
              />
              {fetcher.data?.problem && <Wrong>{fetcher.data.problem}</Wrong>}
            </div>
          </Section>
        </div>
      </div>
    </Page>
  );
}
