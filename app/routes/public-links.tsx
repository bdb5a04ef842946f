import { useState } from 'react';
import { data, useFetcher } from 'react-router';
import { z } from 'zod';
import { formatMoment } from '#core/value/format/format.ts';
import { readFields, type Wrongs } from '#server/forms.ts';
import { guardedAction, guardedLoader, idParam, notFound, type Signed, to } from '#server/guard.ts';
import { isId } from '#server/ids.ts';
import { notForEverybody } from '#server/panes/public-page.ts';
import { type MastOf, mastOf } from '#server/people/mast.ts';
import { note } from '#server/store/audit.ts';
import { findPublished } from '#server/store/dashboards.ts';
import {
  addPublicLink,
  type ListedLink,
  listPublicLinks,
  mayHavePublicLinks,
  removePublicLink,
} from '#server/store/public-links.ts';
import { type PageClock, readBy } from '../administration/clock.ts';
import { Button, ButtonLink } from '../ui/button.tsx';
import { ConfirmRemove } from '../ui/confirm-remove.tsx';
import { TextAreaField, TextField } from '../ui/field.tsx';
import { hereInFull } from '../ui/here.ts';
import { Mast } from '../ui/mast.tsx';
import { Page, Section } from '../ui/page.tsx';
import { SelectField } from '../ui/select-field.tsx';
import type { Route } from './+types/public-links';

interface Loaded {
  readonly of: MastOf;
  readonly desk: { readonly name: string; readonly slug: string };
  readonly title: string;
  readonly panes: readonly { readonly id: string; readonly title: string }[];
  /** The page has a scope of its own, which the link shows. */
  readonly isNarrowed: boolean;
  readonly back: string;
  readonly links: readonly ListedLink[];
  /** Why there can be none, in words; null where there can. */
  readonly refusal: string | null;
  readonly clock: PageClock;
}

/** Why a dashboard cannot be opened to everybody; null where it can. */
async function refusalOf({
  desk,
  dataSets,
}: NonNullable<Awaited<ReturnType<typeof findPublished>>>): Promise<string | null> {
  if (!(await mayHavePublicLinks(desk.id)))
    return `no administrator has allowed it for the desk ${desk.name} yet`;
  return notForEverybody(dataSets.values());
}

/** The links by which a dashboard is shown to whoever has one. */
export const loader = guardedLoader<Signed<Route.LoaderArgs>, Promise<Loaded>>(
  to('build', 'the dashboard'),
  async ({ params, request, user }) => {
    const id = idParam(params.id, 'dashboard');
    const found = await findPublished({ id });
    if (!found) throw notFound('dashboard');
    const { desk, dashboard, slug } = found;
    const { search } = new URL(request.url);
    const [of, links, refusal] = await Promise.all([
      mastOf(user, desk),
      listPublicLinks(id),
      refusalOf(found),
    ]);
    return {
      of,
      desk: { name: desk.name, slug: desk.slug },
      title: dashboard.title,
      panes: dashboard.panes.map(({ id: pane, title }) => ({ id: pane, title: title || 'Untitled' })),
      isNarrowed: search !== '',
      back: `/desk/${desk.slug}/${slug}${search}`,
      links,
      refusal,
      clock: { zone: desk.zone, now: new Date().toISOString() },
    };
  },
);

const lengths = [
  { days: '1', words: 'a day' },
  { days: '7', words: 'a week' },
  { days: '30', words: '30 days' },
  { days: '90', words: '90 days' },
  { days: '365', words: 'a year' },
] as const;
const dayMs = 86_400_000;

const mostSites = 20;

/** Origins as browsers write them, one a line. */
const Sites = z
  .string()
  .max(4000)
  .transform((text) => [...new Set(text.split(/\s+/).filter((site) => site !== ''))])
  .refine(
    (sites) => sites.every(isOrigin),
    'Write each site as https://intranet.example, without a path, one a line.',
  )
  .refine((sites) => sites.length <= mostSites, `No more than ${mostSites} sites.`);

function isOrigin(text: string): boolean {
  const url = URL.canParse(text) ? new URL(text) : null;
  return url !== null && /^https?:$/.test(url.protocol) && url.origin === text;
}

const NewLink = z.object({
  name: z.string().trim().min(1, 'Say for whom it is.').max(200),
  days: z.enum(lengths.map(({ days }) => days)),
  pane: z.string().max(60),
  sites: Sites,
});

interface Answer {
  readonly problem?: string;
  readonly wrong?: Wrongs<z.infer<typeof NewLink>>;
  /** The path of a link that was made, told this once. */
  readonly path?: string;
}

export const action = guardedAction(
  to('build', 'the dashboard'),
  async ({ params, request, user }: Signed<Route.ActionArgs>) => {
    const id = idParam(params.id, 'dashboard');
    const found = await findPublished({ id });
    if (!found) throw notFound('dashboard');
    const form = await request.formData();
    const { title } = found.dashboard;
    const link = form.get('link');
    if (isId(link)) {
      await removePublicLink(id, link);
      await note(user.id, 'closed a public link', title);
      return data<Answer>({});
    }
    const refusal = await refusalOf(found);
    if (refusal) return data<Answer>({ problem: `It cannot be opened: ${refusal}.` }, { status: 400 });
    const read = await readFields(Object.fromEntries(form), NewLink);
    if (!read.ok) return data<Answer>({ wrong: read.wrong }, { status: 400 });
    const { name, days, pane, sites } = read.value;
    const token = await addPublicLink({
      dashboardId: id,
      madeBy: user.id,
      name,
      search: new URL(request.url).search.slice(0, 4000),
      pane: found.dashboard.panes.some((each) => each.id === pane) ? pane : null,
      sites,
      endsAt: new Date(Date.now() + Number(days) * dayMs),
    });
    await note(user.id, 'opened a dashboard to everybody', `${title}, for ${name}`);
    return data<Answer>({ path: `/open/${token}` });
  },
);

export default function PublicLinks({ loaderData }: Route.ComponentProps) {
  const { of, desk, title, panes, isNarrowed, back, links, refusal, clock } = loaderData;
  return (
    <>
      <Mast name={desk.name} home={`/desk/${desk.slug}`} links={[]} of={of} room="desk" />
      <Page
        title={`Open ${title} to everybody`}
        lead="By a link that shows it without signing in until it ends. Nothing in it can be narrowed, opened or changed."
        action={<ButtonLink to={back}>Back to the dashboard</ButtonLink>}
      >
        {refusal !== null && (
          <p className="mb-6 max-w-2xl border-l-3 border-slipping pl-3">It cannot be opened: {refusal}.</p>
        )}
        <div className="grid gap-x-12 gap-y-10 lg:grid-cols-[minmax(0,1.3fr)_minmax(0,1fr)]">
          <Section title="Links that are open">
            <ul>
              {links.map((link) => (
                <OpenLink key={link.id} link={link} panes={panes} clock={clock} />
              ))}
            </ul>
            {links.length === 0 && <p className="pt-2 text-muted">None.</p>}
          </Section>
          {refusal === null && <NewLinkForm panes={panes} isNarrowed={isNarrowed} />}
        </div>
      </Page>
    </>
  );
}

function OpenLink({
  link: { id, name, by, endsAt, pane, sites },
  panes,
  clock,
}: {
  link: ListedLink;
  panes: Loaded['panes'];
  clock: PageClock;
}) {
  const fetcher = useFetcher<Answer>();
  const shown = panes.find((each) => each.id === pane);
  return (
    <li className="flex items-baseline justify-between gap-3 border-b border-hair py-2">
      <span className="min-w-0">
        <span className="block font-strong">{name}</span>
        <span className="block text-small text-muted">
          by {by}, until {formatMoment(endsAt, readBy(clock))}
          {pane !== null && `, only “${shown?.title ?? 'a pane that was removed'}”`}
        </span>
        {sites.length > 0 && (
          <span className="block text-small text-muted">within pages of {sites.join(', ')}</span>
        )}
      </span>
      <ConfirmRemove
        what={`the link for “${name}”`}
        goesWith={['Whoever has it sees nothing any more.']}
        trigger={<Button look="quiet">Close it</Button>}
        onRemove={() => void fetcher.submit({ link: id }, { method: 'post' })}
      />
    </li>
  );
}

function NewLinkForm({ panes, isNarrowed }: { panes: Loaded['panes']; isNarrowed: boolean }) {
  const fetcher = useFetcher<Answer>();
  const { problem, wrong = {}, path } = fetcher.data ?? {};
  const [days, setDays] = useState<string>('7');
  const [pane, setPane] = useState('');
  return (
    <Section title="Make a link">
      <fetcher.Form method="post" className="flex flex-col gap-4 pt-2">
        <p className="text-small text-slate">
          {isNarrowed ? 'In the scope that the page has now.' : 'As the page opens for everybody.'} Records
          are those of the moment at which somebody looks.
        </p>
        <TextField
          label="For whom it is"
          name="name"
          required
          maxLength={200}
          problem={wrong.name ?? problem}
        />
        <SelectField
          label="It shows"
          name="pane"
          value={pane}
          onChange={setPane}
          choices={[
            { value: '', words: 'the whole dashboard' },
            ...panes.map(({ id, title }) => ({ value: id, words: `only “${title}”` })),
          ]}
        />
        <TextAreaField
          label="Sites that may show it within pages of theirs"
          name="sites"
          rows={2}
          maxLength={4000}
          className="font-mono text-small"
          hint="As https://intranet.example, one a line. None: it is only seen by itself."
          problem={wrong.sites}
        />
        <SelectField
          label="The link works for"
          name="days"
          value={days}
          onChange={setDays}
          choices={lengths.map(({ days: value, words }) => ({ value, words }))}
        />
        <Button type="submit" look="main" className="self-start" disabled={fetcher.state === 'submitting'}>
          Make the link
        </Button>
      </fetcher.Form>
      {path && (
        <div role="status" className="mt-4 flex flex-col items-start gap-2">
          <p>Anybody who has this address sees the page. The address is shown this once.</p>
          <p className="font-mono text-small break-all">{hereInFull(path)}</p>
          <Button onClick={() => void navigator.clipboard?.writeText(hereInFull(path))}>Copy it</Button>
        </div>
      )}
    </Section>
  );
}
