import { randomBytes } from 'node:crypto';
import { redirect } from 'react-router';
import { goingHeader, readGoing, signedInHeaders } from '#server/cookies.ts';
import { fromOf, openToAll } from '#server/guard.ts';
import { log } from '#server/log.ts';
import { backFromProvider, Going, providerName, whyOf } from '#server/people/provider.ts';
import { safePath } from '#server/safe-path.ts';
import { reachedAt } from '#server/settings.ts';
import { note } from '#server/store/audit.ts';
import { beginSession } from '#server/store/people.ts';
import { accountOfClaims, type Claims } from '#server/store/provider-people.ts';
import type { Route } from './+types/sign-in-done';

/** Where people come back to who have signed in elsewhere. */
export const loader = openToAll(async ({ request, context }: Route.LoaderArgs) => {
  const refused = async (problem: string) =>
    redirect(`/sign-in?problem=${problem}`, { headers: { 'Set-Cookie': await goingHeader(null) } });
  if (providerName() === null) throw redirect('/sign-in');
  const going = Going.safeParse(await readGoing(request.headers.get('cookie')));
  // Nobody went from this browser, or it took them too long: whatever it brings is not believed.
  if (!going.success) return refused('late');
  let claims: Claims;
  try {
    claims = await backFromProvider(reachedAt(request.url), new URL(request.url).search, going.data);
  } catch (thrown) {
    log.warn({ why: whyOf(thrown) }, 'a sign-in elsewhere was not believed');
    return refused('not-signed-in');
  }
  const account = await accountOfClaims(claims);
  if ('refusal' in account) {
    await note(null, 'failed to sign in', `${claims.email ?? claims.subject} from ${context.address}`);
    return refused(account.refusal.replaceAll(' ', '-'));
  }
  const place = context.place ?? randomBytes(24).toString('base64url');
  const token = await beginSession(account.id, fromOf(request, context, place));
  const headers = await signedInHeaders(token, place);
  headers.append('Set-Cookie', await goingHeader(null));
  return redirect(safePath(going.data.to), { headers });
});
