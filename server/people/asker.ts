import type { Asker } from '#core/ask/condition/resolve.ts';
import { may } from '../permission.ts';
import type { User } from '../store/people.ts';

/** Names under which everybody's groups, name and address are known, beside what administrators say of them. */
const own = ({ groups, name, email }: User): Record<string, readonly string[]> => ({
  groups,
  name: [name],
  'e-mail address': [email],
});

/** Somebody as conditions know them. Who builds sees every record: what is built is looked at with all of them. */
export const askerOf = (user: User): Asker => ({
  name: user.name,
  email: user.email,
  attributes: { ...own(user), ...user.attributes },
  seesAll: may(user, 'build', 'anywhere'),
});
