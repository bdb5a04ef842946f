import { idParam, isPermitted, notFound, permit, type RequestContext, to } from '../guard.ts';
import { askerOf } from '../people/asker.ts';
import { seenAs } from '../people/see-as.ts';
import type { User } from '../store/people.ts';
import { type OpenDashboard, openDashboard } from './context.ts';

/**
 * The dashboard that a request of its page is about. A draft is opened for those who may build, and nobody else. `seen`: as whom somebody
 * else looks at it.
 */
export async function openForView(
  id: string | undefined,
  request: Request,
  user: User,
  context: RequestContext,
): Promise<{ opened: OpenDashboard; params: URLSearchParams; seen: User | null }> {
  const params = new URL(request.url).searchParams;
  const draft = params.get('_draft') === '1';
  if (draft) await permit(user, to('build', 'the dashboard'), { id });
  const seen = await seenAs(user, context, { id });
  const asker = askerOf(seen ?? user);
  const opened = await openDashboard({ id: idParam(id, 'dashboard') }, draft, params, new Date(), asker);
  if (!opened) throw notFound('dashboard');
  return { opened, params, seen };
}

/**
 * A dashboard that a page watches, by the name that pages watch it by: its id, with `.draft` behind that of a draft. Null where there is
 * none, or it is not for this person: the other pages of a browser are told all the same.
 */
export async function openWatched(name: string, user: User): Promise<OpenDashboard | null> {
  const [id = '', kind] = name.split('.');
  const isDraft = kind === 'draft';
  if (!(await isPermitted(user, to(isDraft ? 'build' : 'read', 'the dashboard'), { id }))) return null;
  return openDashboard({ id }, isDraft, new URLSearchParams(), new Date(), askerOf(user));
}
