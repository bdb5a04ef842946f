import { editionFrom, readEdition } from '#core/dashboard/edition.ts';
import type { Problem } from '#core/value/problem/problem.ts';
import { idParam, isPermitted, notFound, permit, type RequestContext, to } from '../guard.ts';
import { askerOf } from '../people/asker.ts';
import { seeAsProblem, seenAs } from '../people/see-as.ts';
import type { User } from '../store/people.ts';
import { type OpenDashboard, openDashboard } from './context.ts';

/**
 * The dashboard that a request of its page is about. All but what readers have is opened for those who may build, and nobody else.
 * `seen`: as whom somebody else looks at it.
 */
export async function openForView(
  id: string | undefined,
  request: Request,
  user: User,
  context: RequestContext,
): Promise<{ opened: OpenDashboard; params: URLSearchParams; seen: User | null }> {
  const params = new URL(request.url).searchParams;
  const edition = readEdition(params);
  if (edition === null) throw notFound('version');
  if (edition !== 'published') await permit(user, to('build', 'the dashboard'), { id });
  const seen = await seenAs(user, context, { id });
  const asker = askerOf(seen ?? user);
  const opened = await openDashboard({ id: idParam(id, 'dashboard') }, edition, params, new Date(), asker);
  if (!opened) throw notFound('dashboard');
  return { opened, params, seen };
}

/** Why nothing is done on a page that only shows something: as somebody else, or as it was. Null where things are done. */
export function onlyLookedAt(
  { opened, seen }: { readonly opened: OpenDashboard; readonly seen: User | null },
  doing: string,
): Problem | null {
  if (seen) return seeAsProblem(seen, doing);
  if (typeof opened.edition !== 'number') return null;
  return {
    code: 'bad-request',
    doing,
    why: earlierRefusal,
    mend: 'Do it on the dashboard as readers have it.',
  };
}

/** Why nothing is changed from a version that is looked at. */
export const earlierRefusal = 'This is a version that is only looked at.';

/**
 * A dashboard that a page watches, by the name that pages watch it by (see `watchedAs`). Null where there is
 * none, or it is not for this person: the other pages of a browser are told all the same.
 */
export async function openWatched(name: string, user: User): Promise<OpenDashboard | null> {
  const [id = '', said = 'published'] = name.split('.');
  const edition = editionFrom(said);
  if (edition === null) return null;
  const wanted = edition === 'published' ? 'read' : 'build';
  if (!(await isPermitted(user, to(wanted, 'the dashboard'), { id }))) return null;
  return openDashboard({ id }, edition, new URLSearchParams(), new Date(), askerOf(user));
}
