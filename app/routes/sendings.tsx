import { useState } from 'react';
import { data, Link, useFetcher } from 'react-router';
import { z } from 'zod';
import { formatMoment } from '#core/value/format/format.ts';
import { cronOf, sendingDays, sendingWords } from '#core/words/sending.ts';
import { guardedAction, guardedLoader, idParam, notFound, type Signed, to } from '#server/guard.ts';
import { isId } from '#server/ids.ts';
import { type MastOf, mastOf } from '#server/people/mast.ts';
import { hasMail } from '#server/sending/mail.ts';
import { nextSending } from '#server/sending/send.ts';
import { note } from '#server/store/audit.ts';
import { findPublished } from '#server/store/dashboards.ts';
import { peopleWhoRead } from '#server/store/people.ts';
import {
  addSending,
  type ListedSending,
  listSendings,
  removeSending,
  sendNow,
} from '#server/store/sendings.ts';
import { type PageClock, readBy } from '../administration/clock.ts';
import { Button, ButtonLink } from '../ui/button.tsx';
import { ConfirmRemove } from '../ui/confirm-remove.tsx';
import { CheckField, TextField } from '../ui/field.tsx';
import { Mast } from '../ui/mast.tsx';
import { Page, Section } from '../ui/page.tsx';
import type { Route } from './+types/sendings';

const mostPeople = 500;

interface Person {
  readonly id: string;
  readonly name: string;
}
interface Loaded {
  readonly of: MastOf;
  readonly desk: { readonly name: string; readonly slug: string };
  readonly title: string;
  /** The scope that is sent, as the address has it. */
  readonly search: string;
  readonly back: string;
  readonly sendings: readonly ListedSending[];
  readonly people: readonly Person[];
  readonly hasMail: boolean;
  readonly clock: PageClock;
}

/** To whom a dashboard is sent by mail, and when. */
export const loader = guardedLoader<Signed<Route.LoaderArgs>, Promise<Loaded>>(
  to('act', 'the dashboard'),
  async ({ params, request, user }) => {
    const id = idParam(params.id, 'dashboard');
    const found = await findPublished({ id });
    if (!found) throw notFound('dashboard');
    const { desk, dashboard, slug } = found;
    const { search } = new URL(request.url);
    const [of, sendings, people] = await Promise.all([
      mastOf(user, desk),
      listSendings(id),
      peopleWhoRead(desk.id, { find: '', except: null, limit: mostPeople }),
    ]);
    return {
      of,
      desk: { name: desk.name, slug: desk.slug },
      title: dashboard.title,
      search,
      back: `/desk/${desk.slug}/${slug}${search}`,
      sendings,
      people: people.map(({ id: each, name }) => ({ id: each, name })),
      hasMail: hasMail(),
      clock: { zone: desk.zone, now: new Date().toISOString() },
    };
  },
);

const NewSending = z.object({
  name: z.string().trim().min(1, 'A name is needed.').max(200),
  at: z.string().regex(/^([01]\d|2[0-3]):[0-5]\d$/, 'Write the time as 07:30.'),
});

interface Answer {
  readonly problem?: string;
  readonly added?: true;
}

export const action = guardedAction(
  to('act', 'the dashboard'),
  async ({ params, request, user }: Signed<Route.ActionArgs>) => {
    const id = idParam(params.id, 'dashboard');
    const found = await findPublished({ id });
    if (!found) throw notFound('dashboard');
    const form = await request.formData();
    const refused = (problem: string) => data<Answer>({ problem }, { status: 400 });
    const sending = form.get('sending');
    const title = found.dashboard.title;
    if (isId(sending)) {
      const isNow = form.get('intent') === 'now';
      await (isNow ? sendNow : removeSending)(id, sending);
      await note(user.id, isNow ? 'had a dashboard sent at once' : 'stopped sending a dashboard', title);
      return data<Answer>({});
    }
    const read = NewSending.safeParse(Object.fromEntries(form));
    if (!read.success) return refused(read.error.issues[0]?.message ?? 'This cannot be read.');
    const readers = await peopleWhoRead(found.desk.id, { find: '', except: null, limit: mostPeople });
    const recipients = form
      .getAll('person')
      .map(String)
      .filter((each) => readers.some((person) => person.id === each));
    if (recipients.length === 0) return refused('Choose who gets it.');
    const on = form.getAll('day').map(Number);
    const cron = cronOf(read.data.at, on);
    await addSending({
      dashboardId: id,
      ownerId: user.id,
      name: read.data.name,
      search: new URL(request.url).search.slice(0, 4000),
      recipients,
      cron,
      nextAt: nextSending(cron, found.desk.zone, new Date()),
    });
    await note(user.id, 'set up to send a dashboard', `${title}, to ${recipients.length}`);
    return data<Answer>({ added: true });
  },
);

export default function Sendings({ loaderData }: Route.ComponentProps) {
  const { of, desk, title, search, back, sendings, people, hasMail: isThere, clock } = loaderData;
  const nameOf = (id: string): string =>
    people.find((person) => person.id === id)?.name ?? 'somebody who left';
  return (
    <>
      <Mast name={desk.name} home={`/desk/${desk.slug}`} links={[]} of={of} room="desk" />
      <Page
        title={`Send ${title}`}
        lead="By mail, by the clock: the numbers in words and the page as a PDF. Each gets what they may see."
        action={<ButtonLink to={back}>Back to the dashboard</ButtonLink>}
      >
        {!isThere && (
          <p className="mb-6 border-l-3 border-slipping pl-3">
            This installation has no mail yet. An administrator names a mail server in its settings.
          </p>
        )}
        <div className="grid gap-x-12 gap-y-10 lg:grid-cols-[minmax(0,1.3fr)_minmax(0,1fr)]">
          <Section title="What is sent">
            <ul>
              {sendings.map((sending) => (
                <SendingLine
                  key={sending.id}
                  sending={sending}
                  to={sending.recipients.map(nameOf)}
                  back={back.split('?')[0] ?? back}
                  clock={clock}
                />
              ))}
            </ul>
            {sendings.length === 0 && <p className="pt-2 text-muted">Nothing yet.</p>}
          </Section>
          {isThere && <NewSendingForm title={title} people={people} isNarrowed={search !== ''} />}
        </div>
      </Page>
    </>
  );
}

function SendingLine({
  sending: { id, name, cron, owner, lastAt, nextAt, problem, search },
  to: recipients,
  back,
  clock,
}: {
  sending: ListedSending;
  to: readonly string[];
  back: string;
  clock: PageClock;
}) {
  const fetcher = useFetcher<Answer>();
  const by = readBy(clock);
  return (
    <li className="flex items-baseline justify-between gap-3 border-b border-hair py-2">
      <span className="min-w-0">
        <Link to={`${back}${search}`} className="font-strong text-accent hover:underline">
          {name}
        </Link>
        <span className="block">
          {sendingWords(cron)}, to {recipients.join(', ')}
        </span>
        <span className="block text-small text-muted">
          by {owner}, {lastAt ? `last sent ${formatMoment(lastAt, by)}` : 'not sent yet'}
          {nextAt && `, next ${formatMoment(nextAt, by)}`}
        </span>
        {problem && <span className="block text-small text-broken">It did not work: {problem}</span>}
      </span>
      <span className="flex shrink-0 gap-1">
        <Button
          look="quiet"
          onClick={() => void fetcher.submit({ intent: 'now', sending: id }, { method: 'post' })}
        >
          Send now
        </Button>
        <ConfirmRemove
          what={`“${name}”`}
          goesWith={['It is not sent any more.']}
          trigger={<Button look="quiet">Remove</Button>}
          onRemove={() => void fetcher.submit({ intent: 'remove', sending: id }, { method: 'post' })}
        />
      </span>
    </li>
  );
}

function NewSendingForm({
  title,
  people,
  isNarrowed,
}: {
  title: string;
  people: readonly Person[];
  isNarrowed: boolean;
}) {
  const fetcher = useFetcher<Answer>();
  const [find, setFind] = useState('');
  const { problem, added } = fetcher.data ?? {};
  return (
    <Section title="Send it regularly">
      <fetcher.Form method="post" className="flex flex-col gap-4 pt-2">
        <p className="text-small text-slate">
          {isNarrowed ? 'In the scope that the page has now.' : 'As the page opens for everybody.'}
        </p>
        <TextField label="Name" name="name" required maxLength={200} defaultValue={title} problem={problem} />
        <TextField
          label="At"
          name="at"
          required
          defaultValue="07:00"
          maxLength={5}
          hint="By the desk’s clock, as 07:30."
          className="figures max-w-32"
        />
        <fieldset>
          <legend className="mb-1 text-small font-strong text-slate">On (every day if none is chosen)</legend>
          <div className="grid grid-cols-2">
            {sendingDays.map(({ number, name }) => (
              <CheckField key={number} name="day" value={number} label={name} />
            ))}
          </div>
        </fieldset>
        <fieldset className="max-h-64 overflow-y-auto">
          <legend className="mb-1 text-small font-strong text-slate">To</legend>
          {people.length > 12 && (
            <TextField label="Find somebody" value={find} onChange={({ target }) => setFind(target.value)} />
          )}
          {people.map(({ id, name }) => (
            <div key={id} hidden={!name.toLowerCase().includes(find.trim().toLowerCase())}>
              <CheckField name="person" value={id} label={name} />
            </div>
          ))}
        </fieldset>
        <div className="flex items-center gap-3">
          <Button type="submit" look="main" disabled={fetcher.state === 'submitting'}>
            Send it regularly
          </Button>
          {added && (
            <span role="status" className="text-small text-slate">
              Set up
            </span>
          )}
        </div>
      </fetcher.Form>
    </Section>
  );
}
