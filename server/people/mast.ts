import { may, roleWord } from '../permission.ts';
import type { Desk } from '../store/desks.ts';
import type { User } from '../store/people.ts';
import { desksOf } from './desks-of.ts';

/** What the bar on top of every page says of whoever looks, and where else they may go. */
export interface MastOf {
  readonly person: { readonly name: string; readonly email: string; readonly role: string };
  readonly mayBuild: boolean;
  readonly mayAdminister: boolean;
  /** The desks that they may read, in order. */
  readonly desks: readonly Pick<Desk, 'slug' | 'name'>[];
}

/** The bar of somebody, on a desk or beside them all. */
export async function mastOf(user: User, desk?: Pick<Desk, 'id'>): Promise<MastOf> {
  const readable = await desksOf(user, 'read');
  return {
    person: { name: user.name, email: user.email, role: roleWord(user, desk?.id) },
    mayBuild: may(user, 'build', desk ? { desk: desk.id } : 'anywhere'),
    mayAdminister: may(user, 'administer', 'installation'),
    desks: readable.map(({ slug, name }) => ({ slug, name })),
  };
}
