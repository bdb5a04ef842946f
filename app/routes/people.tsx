import { useState } from 'react';
import { data, Link, useFetcher } from 'react-router';
import { z } from 'zod';
import { formatMoment, formatNumber } from '#core/value/format/format.ts';
import { guardedAction, guardedLoader, type Signed, to } from '#server/guard.ts';
import { readAccount } from '#server/people/account-form.ts';
import { type AccountRow, listAccounts } from '#server/store/accounts.ts';
import { note } from '#server/store/audit.ts';
import { listDesks } from '#server/store/desks.ts';
import { listGroups } from '#server/store/groups.ts';
import { invite, listInvites, withdrawInvite } from '#server/store/invites.ts';
import { pageClock } from '#server/store/zone.ts';
import { AccountFields } from '../administration/account-fields.tsx';
import { type PageClock, readBy } from '../administration/clock.ts';
import { Button } from '../ui/button.tsx';
import { ConfirmRemove } from '../ui/confirm-remove.tsx';
import { TextField } from '../ui/field.tsx';
import { hereInFull } from '../ui/here.ts';
import { Page, Section } from '../ui/page.tsx';
import { FindForm, listAsked, OtherPages, PlainTable } from '../ui/plain-list.tsx';
import type { Route } from './+types/people';

const perPage = 50;

export const loader = guardedLoader(
  to('administer', 'the installation'),
  async ({ request }: Signed<Route.LoaderArgs>) => {
    const { find, page } = listAsked(request);
    const [people, invites, desks, groups, clock] = await Promise.all([
      listAccounts(find, { offset: (page - 1) * perPage, limit: perPage + 1 }),
      listInvites(),
      listDesks(),
      listGroups(),
      pageClock(),
    ]);
    return {
      people: people.slice(0, perPage),
      hasMore: people.length > perPage,
      find,
      page,
      invites,
      desks,
      groups,
      clock,
    };
  },
);

interface Answer {
  readonly problem?: string;
  /** The path of an invite that was just made; it is not kept. */
  readonly path?: string;
  readonly email?: string;
}

export const action = guardedAction(
  to('administer', 'the installation'),
  async ({ request, user }: Signed<Route.ActionArgs>) => {
    const form = await request.formData();
    const refused = (problem: string) => data<Answer>({ problem }, { status: 400 });
    if (form.get('intent') === 'withdraw') {
      await withdrawInvite(String(form.get('invite')));
      await note(user.id, 'withdrew an invite', String(form.get('email') ?? '').slice(0, 320));
      return data<Answer>({});
    }
    const email = z.email('This is not an e-mail address.').max(320).safeParse(form.get('email'));
    if (!email.success) return refused(email.error.issues[0]?.message ?? 'This is not an e-mail address.');
    const read = readAccount(form);
    if (!read.ok) return refused(read.wrong);
    const token = await invite({ ...read.value, groups: read.value.groups, email: email.data }, user.id);
    if (token === null) return refused('Somebody with this address has an account already.');
    await note(user.id, 'invited', email.data);
    return data<Answer>({ path: `/join/${token}`, email: email.data });
  },
);

export default function People({ loaderData }: Route.ComponentProps) {
  const { people, hasMore, find, page, invites, desks, groups, clock } = loaderData;
  return (
    <Page title="People" lead="Who may come in, and what each may do where." wide>
      <div className="grid gap-x-12 gap-y-10 lg:grid-cols-[minmax(0,1.8fr)_minmax(0,1fr)]">
        <div className="min-w-0">
          <FindForm label="Find by name or address" find={find} />
          <PeopleTable people={people} clock={clock} />
          {people.length === 0 && <p className="mt-3 text-muted">Nobody has “{find}” in their name.</p>}
          <OtherPages
            page={page}
            hasMore={hasMore}
            asked={find ? { find } : {}}
            words={['Previous', 'Next']}
          />
        </div>
        <div className="flex min-w-0 flex-col gap-8">
          <InviteForm desks={desks} groups={groups} />
          {invites.length > 0 && <Invites invites={invites} clock={clock} />}
        </div>
      </div>
    </Page>
  );
}

function PeopleTable({ people, clock }: { people: readonly AccountRow[]; clock: PageClock }) {
  return (
    <PlainTable heads={['Name', 'Address', 'May', 'Last signed in']}>
      {people.map((person) => (
        <tr key={person.id} className="border-b border-hair align-baseline">
          <td className="py-1.5 pr-4">
            <Link
              to={`/administration/people/${person.id}`}
              className="font-strong text-accent hover:underline"
            >
              {person.name}
            </Link>
          </td>
          <td className="py-1.5 pr-4 text-slate">{person.email}</td>
          <td className="py-1.5 pr-4">{mayWords(person)}</td>
          <td className="figures py-1.5 text-small text-muted">
            {person.signedInAt
              ? formatMoment(new Date(person.signedInAt).toISOString(), readBy(clock))
              : 'never'}
            {person.sessions > 0 && `, ${formatNumber(String(person.sessions))} open`}
          </td>
        </tr>
      ))}
    </PlainTable>
  );
}

function mayWords({ isAdministrator, roles, groups }: AccountRow): string {
  const held = [
    ...(isAdministrator ? ['administrator'] : []),
    ...roles.map(({ desk, role }) => `${role} on ${desk}`),
    ...groups.map((group) => `in ${group}`),
  ];
  return held.length > 0 ? held.join(', ') : 'no role yet';
}

function InviteForm({ desks, groups }: Pick<Route.ComponentProps['loaderData'], 'desks' | 'groups'>) {
  const fetcher = useFetcher<Answer>();
  const [turn, setMade] = useState(0);
  const { path, email, problem } = fetcher.data ?? {};
  if (path !== undefined && fetcher.state === 'idle')
    return (
      <Section title="Invite somebody">
        <div role="status" className="flex flex-col items-start gap-3 pt-2">
          <p>
            Send this link to <b>{email}</b>. It is good once, for seven days, and is not shown again.
          </p>
          <output className="max-w-full rounded-[4px] border border-line bg-well px-2.5 py-1.5 font-mono text-small break-all select-all">
            {hereInFull(path)}
          </output>
          <div className="flex gap-2">
            <Button look="main" onClick={() => void navigator.clipboard?.writeText(hereInFull(path))}>
              Copy link
            </Button>
            <Button
              onClick={() => {
                setMade(turn + 1);
                fetcher.reset();
              }}
            >
              Invite another
            </Button>
          </div>
        </div>
      </Section>
    );
  return (
    <Section title="Invite somebody">
      <fetcher.Form key={turn} method="post" className="flex flex-col gap-4 pt-2">
        <TextField label="Name" name="name" required maxLength={200} autoComplete="off" />
        <TextField
          label="E-mail address"
          name="email"
          type="email"
          required
          maxLength={320}
          autoComplete="off"
          problem={problem}
        />
        <AccountFields desks={desks} groups={groups} />
        <Button type="submit" look="main" className="self-start" disabled={fetcher.state === 'submitting'}>
          Make the link
        </Button>
      </fetcher.Form>
    </Section>
  );
}

function Invites({ invites, clock }: Pick<Route.ComponentProps['loaderData'], 'invites' | 'clock'>) {
  const fetcher = useFetcher();
  return (
    <Section title="Invited, not here yet">
      <ul>
        {invites.map(({ id, name, email, expires }) => (
          <li key={id} className="flex items-baseline justify-between gap-3 border-b border-hair py-1.5">
            <span className="min-w-0">
              <span className="block truncate">{name}</span>
              <span className="block truncate text-small text-muted">
                {email}, until {formatMoment(expires, readBy(clock))}
              </span>
            </span>
            <ConfirmRemove
              what={`the invite of ${name}`}
              goesWith={['Its link leads nowhere any more.']}
              ending="They can be invited again."
              trigger={<Button look="quiet">Withdraw</Button>}
              onRemove={() =>
                void fetcher.submit({ intent: 'withdraw', invite: id, email }, { method: 'post' })
              }
            />
          </li>
        ))}
      </ul>
    </Section>
  );
}
