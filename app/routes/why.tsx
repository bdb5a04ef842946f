import { Link } from 'react-router';
import { counted } from '#core/value/format/counted.ts';
import { formatMoment, formatNumber } from '#core/value/format/format.ts';
import { guardedLoader, notFound, type Signed, to } from '#server/guard.ts';
import { withPicked } from '#server/panes/picked.ts';
import { openForView } from '#server/panes/view-request.ts';
import { type Why, type WhyQuestion, type WhyUse, whyPane } from '#server/panes/why.ts';
import { ButtonLink } from '../ui/button.tsx';
import { ProblemMessage } from '../ui/message.tsx';
import { Page, Section } from '../ui/page.tsx';
import type { Route } from './+types/why';

interface Loaded {
  readonly why: Why;
  readonly zone: string;
  readonly now: string;
  readonly back: string;
}

/** Why a pane shows what it shows, in the scope of the address it is asked from. */
export const loader = guardedLoader<Signed<Route.LoaderArgs>, Promise<Loaded>>(
  to('build', 'the dashboard'),
  async ({ params, request, user, context }) => {
    const { opened, params: query } = await openForView(params.id, request, user, context);
    const pane = opened.context.dashboard.panes.find(({ id }) => id === params.pane);
    if (!pane) throw notFound('pane');
    const { desk, slug, id } = opened.shown;
    const { edition } = opened;
    query.delete('_edition');
    const search = query.size > 0 ? `?${query}` : '';
    const built = `/workroom/dashboards/${id}`;
    const page =
      edition === 'published'
        ? `/desk/${desk.slug}/${slug}`
        : edition === 'draft'
          ? built
          : `${built}/versions/${edition}`;
    return {
      why: await whyPane(pane, await withPicked(opened.context, request.signal), request.signal),
      zone: desk.zone,
      now: opened.context.clock.now.toISOString(),
      back: `${page}${search}`,
    };
  },
);

export default function WhyPage({ loaderData: { why, back, ...at } }: Route.ComponentProps) {
  const clock = { zone: at.zone, now: new Date(at.now) };
  return (
    <Page
      title={`Why “${why.title || 'Untitled'}”`}
      lead="What it asks, where, and how many records each condition leaves."
      action={<ButtonLink to={back}>Back to the dashboard</ButtonLink>}
    >
      {why.waitsFor !== null && (
        <p className="mb-6 border-l-3 border-slipping pl-3">It waits until a {why.waitsFor} is chosen.</p>
      )}
      <div className="flex flex-col gap-10">
        {why.uses.map((use, at) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: a use has no other identity than its place
          <Use key={at} use={use} />
        ))}
        <Section title="What it asked just now">
          <ul>
            {why.questions.map((question) => (
              <Question key={question.name} question={question} clock={clock} />
            ))}
          </ul>
          {why.questions.length === 0 && <p className="pt-2 text-muted">Nothing.</p>}
        </Section>
      </div>
    </Page>
  );
}

const number = (text: string | null): string => (text === null ? '—' : formatNumber(text));

function Use({ use: { dataSetId, many, all, conditions, problem } }: { use: WhyUse }) {
  // The first that leaves nothing, where there was something before it.
  const emptied = all === '0' ? -1 : conditions.findIndex(({ left }) => left === '0');
  return (
    <Section
      title={`Its ${many}`}
      action={
        <Link
          to={`/workroom/data-sets/${dataSetId}/steps`}
          className="text-small text-accent hover:underline"
        >
          How these are made
        </Link>
      }
    >
      {problem && <ProblemMessage problem={problem} />}
      <table className="w-full text-left">
        <thead className="text-small text-slate">
          <tr className="border-b border-line">
            <th scope="col" className="py-1 pr-4">
              Condition
            </th>
            <th scope="col" className="py-1 pr-4">
              Whose
            </th>
            <th scope="col" className="py-1 text-right">
              Left
            </th>
          </tr>
        </thead>
        <tbody>
          <tr className="border-b border-hair">
            <td className="py-1.5 pr-4">all {many}</td>
            <td className="py-1.5 pr-4 text-slate">of the data set</td>
            <td className="figures py-1.5 text-right">{number(all)}</td>
          </tr>
          {conditions.map(({ from, words, left }, at) => (
            // biome-ignore lint/suspicious/noArrayIndexKey: conditions have no other identity than their place
            <tr key={at} className="border-b border-hair align-baseline">
              <td className="py-1.5 pr-4">
                {words}
                {at === emptied && (
                  <span className="block text-small text-slipping">This one leaves nothing.</span>
                )}
              </td>
              <td className="py-1.5 pr-4 text-slate">{from}</td>
              <td className="figures py-1.5 text-right">{number(left)}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </Section>
  );
}

function Question({
  question: { name, where, trueAt, took, lines, sql, problem },
  clock,
}: {
  question: WhyQuestion;
  clock: { zone: string; now: Date };
}) {
  return (
    <li className="border-b border-hair py-2">
      <p>
        <b>{name}:</b> <span className="text-slate">{where}</span>
      </p>
      <p className="figures text-small text-muted">
        {formatNumber(String(Math.round(took)))} ms
        {lines !== null && `, ${counted(lines, 'line')}`}
        {trueAt && `, as of ${formatMoment(trueAt, clock)}`}
      </p>
      {problem && <ProblemMessage problem={problem} />}
      {sql && (
        <details className="mt-1">
          <summary className="text-small text-accent">The SQL that was run</summary>
          <pre className="mt-1 max-h-80 overflow-auto rounded-[4px] bg-well p-3 font-mono text-small whitespace-pre-wrap">
            {sql}
          </pre>
        </details>
      )}
    </li>
  );
}
