import { data, redirect } from 'react-router';
import type { Route } from './+types/theme';

export const loader = () => redirect('/');

/** A theme is a wish of this browser, so it is kept in a cookie and needs nobody signed in. */
export async function action({ request }: Route.ActionArgs) {
  const theme = (await request.formData()).get('theme') === 'night' ? 'night' : 'day';
  return data(
    { theme },
    { headers: { 'Set-Cookie': `slate_theme=${theme}; Path=/; SameSite=Lax; Max-Age=31536000` } },
  );
}
