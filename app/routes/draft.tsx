import { redirect, useOutletContext } from 'react-router';
import { checkFlow } from '#core/dashboard/flow/check.ts';
import { guardedAction, guardedLoader, idParam, notFound, type Signed, to } from '#server/guard.ts';
import { openDashboard } from '#server/panes/context.ts';
import { type FirstResults, viewOf } from '#server/panes/shown.ts';
import { askerOf } from '#server/people/asker.ts';
import { note } from '#server/store/audit.ts';
import {
  isAsPublished,
  listVersions,
  publish,
  removeDashboard,
  setPublished,
  stampOf,
} from '#server/store/dashboards.ts';
import { allDataSets } from '#server/store/data-sets.ts';
import { listSources } from '#server/store/sources.ts';
import { unlessScope } from '../desk/revalidate.ts';
import type { PublishAnswer } from '../workroom/answers.ts';
import { DraftPage } from '../workroom/draft-page.tsx';
import type { Route } from './+types/draft';

/** A dashboard being edited. */
export const loader = guardedLoader(
  to('build', 'the dashboard'),
  async ({ params, request, user }: Signed<Route.LoaderArgs>) => {
    const id = idParam(params.id, 'dashboard');
    const [opened, versions, dataSets, sources] = await Promise.all([
      openDashboard({ id }, 'draft', new URL(request.url).searchParams, new Date(), askerOf(user)),
      listVersions(id),
      allDataSets(),
      listSources(),
    ]);
    if (!opened?.draft) throw notFound('dashboard');
    const { draft } = opened;
    const nameOfSource = new Map(sources.map(({ id: each, name }) => [each, name]));
    const offered = dataSets.map(({ id: each, name, definition }) => ({
      id: each,
      name,
      definition,
      source: nameOfSource.get(definition.source) ?? null,
    }));
    return {
      view: await viewOf(opened, null),
      revision: draft.revision,
      published: draft.published,
      isPublished: await isAsPublished(draft),
      stamp: stampOf(draft),
      deskSlug: draft.desk.slug,
      slug: draft.slug,
      versions: versions.map(({ number, at, by }) => ({ number, at: at.toISOString(), by })),
      dataSets: offered,
      flow: checkFlow(draft.dashboard, draft.dataSets),
    };
  },
);

/** Publishes the draft as the page has it, gives readers an earlier version again, or withdraws the dashboard from them. */
export const action = guardedAction(
  to('build', 'the dashboard'),
  async ({ params, request, user }: Signed<Route.ActionArgs>): Promise<PublishAnswer> => {
    const id = idParam(params.id, 'dashboard');
    const form = await request.formData();
    const intent = form.get('intent');
    if (intent === 'publish') {
      const remark = String(form.get('remark') ?? '').trim();
      const published = await publish(id, user.id, String(form.get('stamp')), remark.slice(0, 2000));
      if (!published.ok) return { refused: published.why };
      await note(user.id, 'published a dashboard', `${id} version ${published.number}`);
      return { refused: null };
    }
    if (intent === 'remove') {
      await removeDashboard(id);
      await note(user.id, 'removed a dashboard', id);
      throw redirect('/workroom');
    }
    if (intent === 'withdraw') {
      await setPublished(id, null);
      await note(user.id, 'withdrew a dashboard', id);
      return { refused: null };
    }
    const number = Number(form.get('version'));
    if (!(await listVersions(id)).some((version) => version.number === number)) throw notFound('version');
    await setPublished(id, number);
    await note(user.id, 'went back to a version', `${id} version ${number}`);
    return { refused: null };
  },
);

export const shouldRevalidate = unlessScope;

export default function Draft({ loaderData }: Route.ComponentProps) {
  const first = useOutletContext<FirstResults>();
  return <DraftPage key={loaderData.view.id} first={first} {...loaderData} />;
}
