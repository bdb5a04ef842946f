import type { Auth } from '#core/dataset/http/schema.ts';
import type { ChangerForm } from '../form.ts';
import type { WithSecret } from '../kind.ts';
import type { HttpClient } from '../outgoing/client.ts';
import { type Ask, asking } from './credentials.ts';

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

/** How whoever changes records asks; null where nobody does. */
export function askingAsChanger(auth: Auth, changer: WithSecret['changer'], client: HttpClient): Ask | null {
  if (!changer) return null;
  const { user, secret } = changer;
  const as: Auth =
    auth.kind === 'basic' ? { ...auth, user } : auth.kind === 'client' ? { ...auth, client: user } : auth;
  return asking(as, secret, client);
}
