import { formatMoment } from '#core/value/format/format.ts';
import { guardedLoader, type Signed, to } from '#server/guard.ts';
import { listAudit } from '#server/store/audit.ts';
import { pageClock } from '#server/store/zone.ts';
import { readBy } from '../administration/clock.ts';
import { Page } from '../ui/page.tsx';
import { FindForm, listAsked, OtherPages, PlainTable } from '../ui/plain-list.tsx';
import type { Route } from './+types/history';

const perPage = 100;

export const loader = guardedLoader(
  to('administer', 'the installation'),
  async ({ request }: Signed<Route.LoaderArgs>) => {
    const { find, page } = listAsked(request);
    const [found, clock] = await Promise.all([
      listAudit(find, { offset: (page - 1) * perPage, limit: perPage + 1 }),
      pageClock(),
    ]);
    return { lines: found.slice(0, perPage), hasMore: found.length > perPage, find, page, clock };
  },
);

export default function History({ loaderData: { lines, hasMore, find, page, clock } }: Route.ComponentProps) {
  return (
    <Page
      title="What was done"
      lead="Who signed in, built, published and administered. What was changed in records stands under Changes in the workroom."
    >
      <FindForm label="Find by person, act or subject" find={find} />
      <PlainTable heads={['When', 'Who', 'What', 'Of what']}>
        {lines.map(({ id, at, by, act, subject }) => (
          <tr key={id} className="border-b border-hair align-baseline">
            <td className="figures py-1.5 pr-4 whitespace-nowrap">
              {formatMoment(new Date(at).toISOString(), readBy(clock))}
            </td>
            <td className="py-1.5 pr-4 whitespace-nowrap">{by ?? 'nobody who is signed in'}</td>
            <td className="py-1.5 pr-4">{act}</td>
            <td className="py-1.5 text-slate">{subject}</td>
          </tr>
        ))}
      </PlainTable>
      {lines.length === 0 && <p className="mt-3 text-muted">Nothing{find ? ` with “${find}” in it` : ''}.</p>}
      <OtherPages
        page={page}
        hasMore={hasMore}
        asked={find ? { find } : {}}
        words={['Later ones', 'Earlier ones']}
      />
    </Page>
  );
}
