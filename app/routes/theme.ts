import { data, redirect } from 'react-router';
import { openToAll } from '#server/guard.ts';
import type { Route } from './+types/theme';

export const loader = openToAll(() => redirect('/'));

/** A theme is a wish of this browser, so it is kept in a cookie and needs nobody signed in. */
export const action = openToAll(async ({ request }: Route.ActionArgs) => {
  const theme = (await request.formData()).get('theme') === 'night' ? 'night' : 'day';
  return data(
    { theme },
    { headers: { 'Set-Cookie': `slate_theme=${theme}; Path=/; SameSite=Lax; Max-Age=31536000` } },
  );
});
