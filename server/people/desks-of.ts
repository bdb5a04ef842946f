import { may, type Verb } from '../permission.ts';
import { type Desk, listDesks } from '../store/desks.ts';
import type { User } from '../store/people.ts';

/** The desks on which somebody may do something, in order. */
export const desksOf = async (user: User, verb: Verb): Promise<Desk[]> =>
  (await listDesks()).filter(({ id }) => may(user, verb, { desk: id }));

/** Of those the one that the address of a request names (`?desk=`), else the first; null where there is none. */
export async function deskAskedFor(user: User, verb: Verb, request: Request): Promise<Desk | null> {
  const desks = await desksOf(user, verb);
  const slug = new URL(request.url).searchParams.get('desk');
  return desks.find((desk) => desk.slug === slug) ?? desks[0] ?? null;
}
