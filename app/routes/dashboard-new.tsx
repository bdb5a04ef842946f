import { randomUUID } from 'node:crypto';
import type { SubmissionResult } from '@conform-to/react';
import { useForm } from '@conform-to/react';
import { type ReactNode, useState } from 'react';
import { Form, redirect, useNavigation } from 'react-router';
import { z } from 'zod';
import { briefSentence } from '#core/dashboard/flow/words/brief.ts';
import { clauseWords } from '#core/dashboard/flow/words/scope.ts';
import { keptOf } from '#core/dashboard/propose.ts';
import { capital } from '#core/words/capital.ts';
import { readForm } from '#server/forms.ts';
import { guardedAction, guardedLoader, type Signed, to } from '#server/guard.ts';
import { desksOf } from '#server/people/desks-of.ts';
import { proposalFor } from '#server/shape/proposal.ts';
import { note } from '#server/store/audit.ts';
import { addDashboard, slugOf } from '#server/store/dashboards.ts';
import { addDesk } from '#server/store/desks.ts';
import { zoneOf } from '#server/store/zone.ts';
import { Button } from '../ui/button.tsx';
import { CheckField, TextField } from '../ui/field.tsx';
import { Page } from '../ui/page.tsx';
import { SelectField } from '../ui/select-field.tsx';
import type { Route } from './+types/dashboard-new';

const Body = z.object({
  id: z.uuid(),
  title: z.string().trim().min(1, 'a title is needed').max(500),
  /** The desk that it is to stand on; the first where none is said. */
  desk: z.uuid().optional(),
  /** The data set that its panes are proposed from. */
  of: z.uuid().optional(),
});

/** A pane or filter that is proposed, in words. */
interface Proposed {
  readonly name: string;
  readonly title: string;
  readonly words: string;
}

interface Loaded {
  readonly id: string;
  readonly desks: readonly { readonly value: string; readonly words: string }[];
  readonly proposal: {
    readonly of: string;
    readonly about: string;
    readonly title: string;
    readonly panes: readonly Proposed[];
    readonly clauses: readonly Proposed[];
  } | null;
}

/** The id is made here, so that a form sent twice starts one dashboard. */
export const loader = guardedLoader<Route.LoaderArgs, Loaded>(to('build'), async ({ request, user }) => {
  const id = randomUUID();
  const of = z.uuid().safeParse(new URL(request.url).searchParams.get('of'));
  const found = of.success ? await proposalFor(of.data, request.signal) : null;
  const desks = (await desksOf(user, 'build')).map((desk) => ({ value: desk.id, words: desk.name }));
  if (!found) return { id, desks, proposal: null };
  const { about, offered, dashboard } = found;
  const context = {
    dashboard,
    dataSets: new Map(offered.map((each) => [each.id, each.dataSet])),
    clock: { now: new Date(), zone: await zoneOf(about.id) },
  };
  return {
    id,
    desks,
    proposal: {
      of: about.id,
      about: about.name,
      title: dashboard.title,
      panes: dashboard.panes.map((pane) => ({
        name: pane.id,
        title: pane.title,
        words: briefSentence(pane, context) ?? '',
      })),
      clauses: dashboard.scope.map((clause) => ({
        name: clause.name,
        title: capital(clause.offer === 'dates' ? (clause.lead ?? clause.many) : clause.many),
        words: clauseWords(clause, clause.initially ?? null, about.dataSet, context.clock),
      })),
    },
  };
});

/** The fields of the form that give panes their titles. */
const titlesOf = (form: FormData): Map<string, string> =>
  new Map(
    [...form].flatMap(([name, value]): [string, string][] =>
      name.startsWith(titlePrefix) && typeof value === 'string'
        ? [[name.slice(titlePrefix.length), value.slice(0, 500)]]
        : [],
    ),
  );
const titlePrefix = 'title:';
const named = (form: FormData, name: string): string[] =>
  form.getAll(name).filter((value) => typeof value === 'string');

export const action = guardedAction(
  to('build'),
  async ({ request, user }: Signed<Route.ActionArgs>): Promise<{ result: SubmissionResult } | Response> => {
    const form = await request.formData();
    const submission = readForm(form, Body);
    if (submission.status !== 'success') return { result: submission.reply() };
    const { id, title, of, desk: wanted } = submission.value;
    const proposal = of === undefined ? null : await proposalFor(of, request.signal);
    const kept = proposal
      ? keptOf(proposal.dashboard, {
          panes: named(form, 'pane'),
          clauses: named(form, 'clause'),
          titles: titlesOf(form),
        })
      : { version: 4 as const, scope: [], panes: [] };
    const desks = await desksOf(user, 'build');
    // Where there is no desk at all, only administrators come here.
    const desk =
      desks.find((each) => each.id === wanted) ??
      desks[0] ??
      (await addDesk({ name: 'Our desk', zone: 'UTC' }));
    await addDashboard({
      id,
      deskId: desk.id,
      slug: slugOf(title),
      draft: { ...kept, title },
      by: user.id,
    });
    await note(user.id, 'started a dashboard', title);
    return redirect(`/workroom/dashboards/${id}`);
  },
);

export default function DashboardNew({ loaderData, actionData }: Route.ComponentProps) {
  const { id, desks, proposal } = loaderData;
  const busy = useNavigation().state !== 'idle';
  const [form, fields] = useForm<{ title: string }>({
    lastResult: actionData && 'result' in actionData ? actionData.result : null,
    defaultValue: { title: proposal?.title ?? '' },
  });
  return (
    <Page
      title={proposal ? `A dashboard of ${proposal.about}` : 'Start a dashboard'}
      lead={
        proposal
          ? 'Keep what you need. It starts as a draft with real records, in which everything can still be changed.'
          : 'Only those who build see it until you publish it.'
      }
      wide={proposal !== null}
    >
      <Form
        method="post"
        id={form.id}
        onSubmit={(event) => busy && event.preventDefault()}
        className={`flex flex-col gap-6 ${proposal ? 'max-w-4xl' : 'max-w-md'}`}
      >
        <input type="hidden" name="id" value={id} />
        {proposal && <input type="hidden" name="of" value={proposal.of} />}
        <div className="flex max-w-md flex-col gap-4">
          <TextField
            label="Title"
            name="title"
            defaultValue={fields.title.initialValue}
            problem={fields.title.errors?.[0]}
            autoFocus={!proposal}
            maxLength={500}
          />
          {desks.length > 1 && <SelectField label="On which desk" name="desk" choices={desks} />}
        </div>
        {proposal && (
          <>
            <Choosing legend="What it shows">
              {proposal.panes.map((pane) => (
                <ProposedPane key={pane.name} {...pane} />
              ))}
            </Choosing>
            {proposal.clauses.length > 0 && (
              <Choosing legend="What readers can narrow by">
                {proposal.clauses.map(({ name, title, words }) => (
                  <li key={name} className="border-b border-hair py-1.5">
                    <CheckField
                      name="clause"
                      value={name}
                      defaultChecked
                      label={
                        <>
                          {title} <span className="text-small text-muted">at first {words}</span>
                        </>
                      }
                    />
                  </li>
                ))}
              </Choosing>
            )}
          </>
        )}
        <Button type="submit" look="main" className="self-start" disabled={busy}>
          {busy ? 'Starting …' : 'Start'}
        </Button>
      </Form>
    </Page>
  );
}

function Choosing({ legend, children }: { legend: string; children: ReactNode }) {
  return (
    <fieldset>
      <legend className="mb-1 font-strong">{legend}</legend>
      <ul className="border-t border-line">{children}</ul>
    </fieldset>
  );
}

/** A pane that can stay or go, under a title that can be changed. */
function ProposedPane({ name, title, words }: Proposed) {
  const [isKept, setKept] = useState(true);
  return (
    <li className="grid grid-cols-[auto_minmax(10rem,18rem)_1fr] items-baseline gap-x-3 border-b border-hair py-1.5">
      <input
        type="checkbox"
        name="pane"
        value={name}
        aria-label={title}
        checked={isKept}
        onChange={() => setKept(!isKept)}
        className="size-4 self-center accent-[var(--accent)]"
      />
      <input
        name={`${titlePrefix}${name}`}
        aria-label={`Title of ${title}`}
        defaultValue={title}
        maxLength={500}
        disabled={!isKept}
        className="w-full border-b border-line bg-transparent px-1 py-0.5 font-strong disabled:text-muted"
      />
      <span className={`text-small ${isKept ? 'text-slate' : 'text-muted'}`}>{words}</span>
    </li>
  );
}
