import { redirect } from 'react-router';
import { goingHeader } from '#server/cookies.ts';
import { openToAll } from '#server/guard.ts';
import { log } from '#server/log.ts';
import { goToProvider, providerName, whyOf } from '#server/people/provider.ts';
import { safePath } from '#server/safe-path.ts';
import { reachedAt } from '#server/settings.ts';
import type { Route } from './+types/sign-in-provider';

/** Leads to where people sign in instead of here. */
export const loader = openToAll(async ({ request }: Route.LoaderArgs) => {
  if (providerName() === null) throw redirect('/sign-in');
  const to = safePath(new URL(request.url).searchParams.get('to'));
  try {
    const { address, going } = await goToProvider(reachedAt(request.url), to);
    return redirect(address, { headers: { 'Set-Cookie': await goingHeader(going) } });
  } catch (thrown) {
    log.warn({ why: whyOf(thrown) }, 'the sign-in provider cannot be asked');
    return redirect('/sign-in?problem=away');
  }
});
