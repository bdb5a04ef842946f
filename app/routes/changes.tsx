import Download from 'lucide-react/icons/download';
import { counted } from '#core/value/format/counted.ts';
import { formatMoment, formatNumber } from '#core/value/format/format.ts';
import { guardedLoader, type Signed, to } from '#server/guard.ts';
import { deskAskedFor, desksOf } from '#server/people/desks-of.ts';
import { changesOfDesk, type ListedBatch } from '#server/store/changes.ts';
import { here } from '../ui/here.ts';
import { Page } from '../ui/page.tsx';
import { FindForm, listAsked, OtherPages, PlainTable } from '../ui/plain-list.tsx';
import { SelectField } from '../ui/select-field.tsx';
import { StateMark } from '../ui/state-mark.tsx';
import type { Route } from './+types/changes';

const perPage = 50;

interface Listed {
  batches: ListedBatch[];
  /** Those to choose from, and the one that is shown. */
  desks: { value: string; words: string }[];
  desk: string;
  find: string;
  page: number;
  hasMore: boolean;
  zone: string;
}

/** What was changed from the dashboards of a desk, by whom, and what became of it. */
export const loader = guardedLoader(
  to('build'),
  async ({ request, user }: Signed<Route.LoaderArgs>): Promise<Listed> => {
    const { find, page } = listAsked(request);
    const [desks, desk] = await Promise.all([desksOf(user, 'build'), deskAskedFor(user, 'build', request)]);
    const found = desk
      ? await changesOfDesk(desk.id, { find, offset: (page - 1) * perPage, limit: perPage + 1 })
      : [];
    return {
      batches: found.slice(0, perPage),
      desks: desks.map(({ slug, name }) => ({ value: slug, words: name })),
      desk: desk?.slug ?? '',
      find,
      page,
      hasMore: found.length > perPage,
      zone: desk?.zone ?? 'UTC',
    };
  },
);

const states: Readonly<
  Record<ListedBatch['state'], { tone: 'settled' | 'broken' | 'slipping' | 'moving'; word: string }>
> = {
  done: { tone: 'settled', word: 'Done' },
  refused: { tone: 'broken', word: 'Not done' },
  unknown: { tone: 'slipping', word: 'Not known yet' },
  sending: { tone: 'moving', word: 'Being sent' },
};

export default function Changes({ loaderData }: Route.ComponentProps) {
  const { batches, desks, desk, find, page, hasMore, zone } = loaderData;
  const query = { ...(desks.length > 1 ? { desk } : {}), ...(find ? { find } : {}) };
  return (
    <Page
      title="Changes"
      lead="What people have changed from dashboards. Nothing is ever taken off this list."
      wide
    >
      <FindForm
        label="Find by person, action, pane or record"
        find={find}
        after={
          batches.length > 0 && (
            <a
              href={here(`/workroom/changes/file?${new URLSearchParams(query)}`)}
              download
              className="ml-2 flex min-h-8 items-center gap-1.5 text-small whitespace-nowrap text-accent hover:underline"
            >
              <Download className="size-4" aria-hidden="true" /> Download as CSV
            </a>
          )
        }
      >
        {desks.length > 1 && (
          <div className="w-48">
            <SelectField label="Desk" name="desk" defaultValue={desk} choices={desks} />
          </div>
        )}
      </FindForm>
      {batches.length === 0 ? (
        <p className="text-muted">
          {find ? `No change has “${find}” in it.` : 'Nothing has been changed yet.'}
        </p>
      ) : (
        <PlainTable heads={['When', 'Who', 'What', 'Which', 'Where', 'Outcome']}>
          {batches.map(({ id, at, by, label, pane, records, refused, title, state }) => (
            <tr key={id} className="border-b border-hair">
              <td className="figures py-1.5 pr-4 whitespace-nowrap">
                {formatMoment(new Date(at).toISOString(), zone)}
              </td>
              <td className="py-1.5 pr-4">{by}</td>
              <td className="py-1.5 pr-4">{label}</td>
              <td className="py-1.5 pr-4">
                {title}
                {records > 1 && (
                  <span className="text-muted">
                    {title === null ? '' : ' and '}
                    {counted(title === null ? records : records - 1, 'other')}
                  </span>
                )}
              </td>
              <td className="py-1.5 pr-4 text-muted">{pane}</td>
              <td className="py-1.5">
                <StateMark {...states[state]} />
                {state === 'done' && refused > 0 && (
                  <span className="text-muted">, except {formatNumber(String(refused))}</span>
                )}
              </td>
            </tr>
          ))}
        </PlainTable>
      )}
      <OtherPages page={page} hasMore={hasMore} asked={query} words={['Later ones', 'Earlier ones']} />
    </Page>
  );
}
