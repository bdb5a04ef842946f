import type { Problem } from '#core/value/problem/problem.ts';
import type { RequestContext } from '../guard.ts';
import { may } from '../permission.ts';
import { deskOfDashboard } from '../store/dashboards.ts';
import { findUser, type User } from '../store/people.ts';

/*
 * Whoever builds on a desk can look at it as a reader of theirs gets it: with what that person may see, and nothing that can be
 * changed. Their browser says as whom, by a cookie; it counts on desks where they may build, for people who may read there.
 */

/** As whom somebody looks at a dashboard or a desk; null: as themself. */
export async function seenAs(
  user: User,
  { seeAs }: Pick<RequestContext, 'seeAs'>,
  on: { readonly id: string | undefined } | { readonly desk: string },
): Promise<User | null> {
  if (seeAs === null || seeAs === user.id) return null;
  const desk = 'desk' in on ? on.desk : await deskOfDashboard(on.id ?? '');
  if (desk === null || !may(user, 'build', { desk })) return null;
  const other = await findUser(seeAs);
  return other && may(other, 'read', { desk }) ? other : null;
}

/** Why nothing is changed while one looks as somebody else. */
export const seeAsRefusal = ({ name }: Pick<User, 'name'>): string =>
  `You see this as ${name}, and changes are made under one’s own name.`;

export const seeAsProblem = (seen: Pick<User, 'name'>, doing: string): Problem => ({
  code: 'bad-request',
  doing,
  why: seeAsRefusal(seen),
  mend: 'Stop seeing it as somebody else, then do it.',
});
