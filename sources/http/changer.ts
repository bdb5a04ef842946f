import type { Auth } from '#core/dataset/http/schema.ts';
import type { ChangerForm } from '../form.ts';

/* Who changes records of a service: signed in as the one who reads is, with a credential of its own. */

/** What is asked for, by how one signs in. */
export function changerForm(auth: Auth): ChangerForm {
  switch (auth.kind) {
    case 'none':
      return { user: null, secret: null };
    case 'basic':
      return { user: 'User that changes records', secret: 'Its password' };
    case 'key':
      return { user: null, secret: 'Key that may change records' };
    case 'bearer':
      return { user: null, secret: 'Token that may change records' };
    case 'client':
      return { user: 'Client that changes records', secret: 'Its secret' };
  }
}

/** How whoever changes records signs in. */
export function changerAuth(auth: Auth, user: string): Auth {
  if (auth.kind === 'basic') return { ...auth, user };
  return auth.kind === 'client' ? { ...auth, client: user } : auth;
}
