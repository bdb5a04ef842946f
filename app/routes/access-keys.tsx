import { useState } from 'react';
import { data, useFetcher } from 'react-router';
import { z } from 'zod';
import { formatMoment } from '#core/value/format/format.ts';
import { guardedAction, guardedLoader, type Signed, to } from '#server/guard.ts';
import { isId } from '#server/ids.ts';
import { desksOf } from '#server/people/desks-of.ts';
import { type MastOf, mastOf } from '#server/people/mast.ts';
import { may } from '#server/permission.ts';
import { type AccessKey, addAccessKey, listAccessKeys, removeAccessKey } from '#server/store/access-keys.ts';
import { note } from '#server/store/audit.ts';
import { menuOf } from '#server/store/dashboards.ts';
import { listDataSets } from '#server/store/data-sets.ts';
import type { User } from '#server/store/people.ts';
import { pageClock } from '#server/store/zone.ts';
import { accountLinks } from '../administration/account-links.ts';
import { type PageClock, readBy } from '../administration/clock.ts';
import { Button } from '../ui/button.tsx';
import { ConfirmRemove } from '../ui/confirm-remove.tsx';
import { CheckField, TextField } from '../ui/field.tsx';
import { here } from '../ui/here.ts';
import { Mast } from '../ui/mast.tsx';
import { Page, Section } from '../ui/page.tsx';
import { SelectField } from '../ui/select-field.tsx';
import type { Route } from './+types/access-keys';

interface Reachable {
  readonly id: string;
  readonly name: string;
}
interface Loaded {
  readonly of: MastOf;
  readonly keys: readonly AccessKey[];
  readonly dashboards: readonly Reachable[];
  readonly dataSets: readonly Reachable[];
  readonly clock: PageClock;
}

/** What somebody can give a key for: what they read, and for those who build, data sets. */
async function reachableBy(user: User): Promise<Pick<Loaded, 'dashboards' | 'dataSets'>> {
  const desks = await desksOf(user, 'read');
  const menus = await Promise.all(desks.map(({ id }) => menuOf(id, true)));
  const dataSets = may(user, 'build', 'anywhere') ? await listDataSets() : [];
  return {
    dashboards: menus.flatMap((menu, at) =>
      menu.map(({ id, title }) => ({
        id,
        name: desks.length > 1 ? `${title} (${desks[at]?.name})` : title,
      })),
    ),
    dataSets: dataSets.map(({ id, name }) => ({ id, name })),
  };
}

export const loader = guardedLoader<Signed<Route.LoaderArgs>, Promise<Loaded>>(
  to('read', 'oneself'),
  async ({ user }) => {
    const [of, keys, reachable, clock] = await Promise.all([
      mastOf(user),
      listAccessKeys(user.id),
      reachableBy(user),
      pageClock(),
    ]);
    return { of, keys, ...reachable, clock };
  },
);

const endings = { '30': 'in 30 days', '365': 'in a year', none: 'never' } as const;
const NewKey = z.object({
  name: z.string().trim().min(1, 'Say what it is for.').max(200),
  ends: z.enum(['30', '365', 'none']),
});

interface Answer {
  readonly problem?: string;
  /** Shown once. */
  readonly key?: string;
}

export const action = guardedAction(
  to('read', 'oneself'),
  async ({ request, user }: Signed<Route.ActionArgs>) => {
    const form = await request.formData();
    const refused = (problem: string) => data<Answer>({ problem }, { status: 400 });
    if (form.get('intent') === 'remove') {
      const id = form.get('key');
      if (isId(id)) await removeAccessKey(user.id, id);
      await note(user.id, 'ended a key for programs', String(form.get('name') ?? '').slice(0, 200));
      return data<Answer>({});
    }
    const read = NewKey.safeParse(Object.fromEntries(form));
    if (!read.success) return refused(read.error.issues[0]?.message ?? 'This cannot be read.');
    const reachable = await reachableBy(user);
    const chosen = (name: string, from: readonly Reachable[]): string[] =>
      form
        .getAll(name)
        .map(String)
        .filter((id) => from.some((each) => each.id === id));
    const dashboards = chosen('dashboard', reachable.dashboards);
    const dataSets = chosen('data-set', reachable.dataSets);
    if (dashboards.length + dataSets.length === 0) return refused('Choose what it reaches.');
    const { name, ends } = read.data;
    const key = await addAccessKey(user.id, {
      name,
      dashboards,
      dataSets,
      expiresAt: ends === 'none' ? null : new Date(Date.now() + Number(ends) * 86_400_000),
    });
    await note(user.id, 'made a key for programs', name);
    return data<Answer>({ key });
  },
);

export default function AccessKeys({
  loaderData: { of, keys, dashboards, dataSets, clock },
}: Route.ComponentProps) {
  const fetcher = useFetcher<Answer>();
  const by = readBy(clock);
  const nameOf = (id: string): string =>
    [...dashboards, ...dataSets].find((each) => each.id === id)?.name ?? 'something that no longer exists';
  return (
    <>
      <Mast name="Your account" home="/account" links={accountLinks} of={of} room="administration" />
      <Page
        title="Keys for programs"
        lead="A program with a key gets what you may see of what the key reaches: as files, or as a service that spreadsheets connect to by themselves."
      >
        <div className="grid gap-x-12 gap-y-10 lg:grid-cols-[minmax(0,1.2fr)_minmax(0,1fr)]">
          <Section title="Your keys">
            <ul>
              {keys.map(({ id, name, expiresAt, usedAt, ...reach }) => (
                <li key={id} className="flex items-baseline justify-between gap-3 border-b border-hair py-2">
                  <span className="min-w-0">
                    <b>{name}</b>
                    <span className="block text-small text-slate">
                      {[...reach.dashboards, ...reach.dataSets].map(nameOf).join(', ')}
                    </span>
                    <span className="block text-small text-muted">
                      {usedAt
                        ? `last used ${formatMoment(new Date(usedAt).toISOString(), by)}`
                        : 'not used yet'}
                      {expiresAt && `, until ${formatMoment(new Date(expiresAt).toISOString(), by)}`}
                    </span>
                  </span>
                  <ConfirmRemove
                    what={`the key “${name}”`}
                    goesWith={['The program that has it gets nothing any more.']}
                    trigger={<Button look="quiet">End</Button>}
                    onRemove={() =>
                      void fetcher.submit({ intent: 'remove', key: id, name }, { method: 'post' })
                    }
                  />
                </li>
              ))}
            </ul>
            {keys.length === 0 && <p className="pt-2 text-muted">None yet.</p>}
            <p className="mt-4 text-small text-muted">
              What there is to ask for is said at{' '}
              <a href={here('/results/open-api.json')} className="text-accent underline">
                /results/open-api.json
              </a>
              . A spreadsheet connects to <span className="font-mono">/results/odata/</span>, with any user
              name and the key as the password.
            </p>
          </Section>
          <NewKeyForm dashboards={dashboards} dataSets={dataSets} />
        </div>
      </Page>
    </>
  );
}

function NewKeyForm({ dashboards, dataSets }: Pick<Loaded, 'dashboards' | 'dataSets'>) {
  const fetcher = useFetcher<Answer>();
  const [find, setFind] = useState('');
  const { key, problem } = fetcher.data ?? {};
  if (key !== undefined && fetcher.state === 'idle')
    return (
      <Section title="A new key">
        <div role="status" className="flex flex-col items-start gap-3 pt-2">
          <p>Give it to the program now. It is not shown again.</p>
          <output className="max-w-full rounded-[4px] border border-line bg-well px-2.5 py-1.5 font-mono text-small break-all select-all">
            {key}
          </output>
          <div className="flex gap-2">
            <Button look="main" onClick={() => void navigator.clipboard?.writeText(key)}>
              Copy key
            </Button>
            <Button onClick={() => fetcher.reset()}>Make another</Button>
          </div>
        </div>
      </Section>
    );
  const isFound = ({ name }: Reachable): boolean => name.toLowerCase().includes(find.trim().toLowerCase());
  return (
    <Section title="A new key">
      <fetcher.Form method="post" className="flex flex-col gap-4 pt-2">
        <TextField
          label="What it is for"
          name="name"
          required
          maxLength={200}
          autoComplete="off"
          hint="Such as the spreadsheet of the harbour board."
          problem={problem}
        />
        <SelectField
          label="It ends"
          name="ends"
          defaultValue="365"
          choices={Object.entries(endings).map(([value, words]) => ({ value, words }))}
        />
        {dashboards.length + dataSets.length > 12 && (
          <TextField
            label="Find what it reaches"
            value={find}
            onChange={({ target }) => setFind(target.value)}
          />
        )}
        <Choosing legend="Dashboards" name="dashboard" all={dashboards} isFound={isFound} />
        <Choosing legend="Data sets" name="data-set" all={dataSets} isFound={isFound} />
        <Button type="submit" look="main" className="self-start" disabled={fetcher.state === 'submitting'}>
          Make the key
        </Button>
      </fetcher.Form>
    </Section>
  );
}

/** What is not found stays chosen where it was chosen. */
function Choosing({
  legend,
  name,
  all,
  isFound,
}: {
  legend: string;
  name: string;
  all: readonly Reachable[];
  isFound: (each: Reachable) => boolean;
}) {
  if (all.length === 0) return null;
  return (
    <fieldset className="max-h-64 overflow-y-auto">
      <legend className="mb-1 text-small font-strong text-slate">{legend}</legend>
      {all.map((each) => (
        <div key={each.id} hidden={!isFound(each)}>
          <CheckField name={name} value={each.id} label={each.name} />
        </div>
      ))}
    </fieldset>
  );
}
