import { type DraftReview, reviewDraft } from '#server/definitions/draft-review.ts';
import { guardedLoader, idParam, notFound, type Signed, to } from '#server/guard.ts';
import { askerOf } from '#server/people/asker.ts';
import { findDraft } from '#server/store/dashboards.ts';
import type { Route } from './+types/draft-review';

/** What publishing a draft would mean for its readers. */
export const loader = guardedLoader(
  to('build', 'the dashboard'),
  async ({ params, request, user }: Signed<Route.LoaderArgs>): Promise<DraftReview> => {
    const draft = await findDraft(idParam(params.id, 'dashboard'));
    if (!draft) throw notFound('dashboard');
    return reviewDraft(draft, askerOf(user), request.signal);
  },
);
