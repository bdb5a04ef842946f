import { Form, Link } from 'react-router';
import { formatMoment } from '#core/value/format/format.ts';
import { guardedLoader, type Signed, to } from '#server/guard.ts';
import { listAudit } from '#server/store/audit.ts';
import { pageClock } from '#server/store/zone.ts';
import { readBy } from '../administration/clock.ts';
import { Button } from '../ui/button.tsx';
import { TextField } from '../ui/field.tsx';
import { Page } from '../ui/page.tsx';
import type { Route } from './+types/history';

const perPage = 100;

export const loader = guardedLoader(
  to('administer', 'the installation'),
  async ({ request }: Signed<Route.LoaderArgs>) => {
    const { searchParams } = new URL(request.url);
    const find = (searchParams.get('find') ?? '').trim().slice(0, 200);
    const page = Math.min(10_000, Math.max(1, Math.trunc(Number(searchParams.get('page'))) || 1));
    const [found, clock] = await Promise.all([
      listAudit(find, { offset: (page - 1) * perPage, limit: perPage + 1 }),
      pageClock(),
    ]);
    return { lines: found.slice(0, perPage), hasMore: found.length > perPage, find, page, clock };
  },
);

export default function History({ loaderData: { lines, hasMore, find, page, clock } }: Route.ComponentProps) {
  const pageAt = (number: number): string =>
    `?${new URLSearchParams({ ...(find ? { find } : {}), page: String(number) })}`;
  return (
    <Page
      title="What was done"
      lead="Who signed in, built, published and administered. What was changed in records stands under Changes in the workroom."
    >
      <Form role="search" className="mb-4 flex max-w-md items-end gap-2">
        <div className="flex-1">
          <TextField label="Find by person, act or subject" name="find" defaultValue={find} maxLength={200} />
        </div>
        <Button type="submit">Find</Button>
      </Form>
      <table className="w-full text-left">
        <thead className="text-small text-slate">
          <tr className="border-b border-line">
            {['When', 'Who', 'What', 'Of what'].map((head) => (
              <th key={head} scope="col" className="py-1 pr-4">
                {head}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {lines.map(({ id, at, by, act, subject }) => (
            <tr key={id} className="border-b border-hair align-baseline">
              <td className="figures py-1.5 pr-4 whitespace-nowrap">
                {formatMoment(new Date(at).toISOString(), readBy(clock))}
              </td>
              <td className="py-1.5 pr-4 whitespace-nowrap">{by ?? 'nobody who is signed in'}</td>
              <td className="py-1.5 pr-4">{act}</td>
              <td className="py-1.5 break-words text-slate">{subject}</td>
            </tr>
          ))}
        </tbody>
      </table>
      {lines.length === 0 && <p className="mt-3 text-muted">Nothing{find ? ` with “${find}” in it` : ''}.</p>}
      <nav aria-label="Pages" className="mt-4 flex gap-4">
        {page > 1 && (
          <Link to={pageAt(page - 1)} className="text-accent hover:underline">
            Later ones
          </Link>
        )}
        {hasMore && (
          <Link to={pageAt(page + 1)} className="text-accent hover:underline">
            Earlier ones
          </Link>
        )}
      </nav>
    </Page>
  );
}
