import type { ShouldRevalidateFunctionArgs } from 'react-router';
import type { DataSet } from '#core/dataset/schema.ts';
import { checkFlow } from '#core/flow/check.ts';
import { guardedAction, guardedLoader, idParam, notFound, type Signed } from '#server/guard.ts';
import { openDashboard } from '#server/panes/context.ts';
import { firstResults, viewOf } from '#server/panes/shown.ts';
import { note } from '#server/store/audit.ts';
import { listVersions, publish, setPublished } from '#server/store/dashboards.ts';
import { allDataSets } from '#server/store/data-sets.ts';
import { DraftPage } from '../workshop/draft-page.tsx';
import type { Route } from './+types/draft';

/** A dashboard being edited. */
export const loader = guardedLoader('build', async ({ params, request, user }: Signed<Route.LoaderArgs>) => {
  const id = idParam(params.id, 'dashboard');
  const [opened, versions, dataSets] = await Promise.all([
    openDashboard({ id }, true, new URL(request.url).searchParams, new Date(), user),
    listVersions(id),
    allDataSets(),
  ]);
  if (!opened?.draft) throw notFound('dashboard');
  const { draft } = opened;
  const offered: { id: string; name: string; definition: DataSet }[] = dataSets.map(
    ({ id: each, name, definition }) => ({ id: each, name, definition }),
  );
  return {
    view: await viewOf(opened),
    first: firstResults(opened.context, request.signal),
    revision: draft.revision,
    published: draft.published,
    deskSlug: draft.desk.slug,
    slug: draft.slug,
    versions: versions.map(({ number, at, by }) => ({ number, at: at.toISOString(), by })),
    dataSets: offered,
    flow: checkFlow(draft.dashboard, draft.dataSets),
  };
});

/** Publishes the draft, gives readers an earlier version again, or takes the dashboard away from them. */
export const action = guardedAction('build', async ({ params, request, user }: Signed<Route.ActionArgs>) => {
  const id = idParam(params.id, 'dashboard');
  const form = await request.formData();
  const intent = form.get('intent');
  if (intent === 'publish') {
    const number = await publish(id, user.id);
    await note(user.id, 'published a dashboard', `${id} version ${number}`);
    return { said: `Published as version ${number}.` };
  }
  if (intent === 'withdraw') {
    await setPublished(id, null);
    await note(user.id, 'withdrew a dashboard', id);
    return { said: 'Readers no longer see it.' };
  }
  const number = Number(form.get('version'));
  if (!(await listVersions(id)).some((version) => version.number === number)) throw notFound('version');
  await setPublished(id, number);
  await note(user.id, 'went back to a version', `${id} version ${number}`);
  return { said: `Readers get version ${number} again.` };
});

/** A change of scope asks only the panes it touches. */
export function shouldRevalidate({
  currentUrl,
  nextUrl,
  formMethod,
  defaultShouldRevalidate,
}: ShouldRevalidateFunctionArgs): boolean {
  if (formMethod !== undefined) return defaultShouldRevalidate;
  return currentUrl.pathname !== nextUrl.pathname || currentUrl.search === nextUrl.search;
}

export default function Draft({ loaderData, actionData }: Route.ComponentProps) {
  return (
    <DraftPage
      key={loaderData.view.id}
      {...loaderData}
      said={actionData && 'said' in actionData ? actionData.said : null}
    />
  );
}
