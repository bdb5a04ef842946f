import { data, redirect } from 'react-router';
import { themeHeaders } from '#server/cookies.ts';
import { openToAll } from '#server/guard.ts';
import type { Route } from './+types/theme';

export const loader = openToAll(() => redirect('/'));

/** A theme belongs to a browser and not to a person, so that nobody needs to be signed in. */
export const action = openToAll(async ({ request }: Route.ActionArgs) => {
  const theme = (await request.formData()).get('theme') === 'night' ? 'night' : 'day';
  return data({ theme }, { headers: await themeHeaders(theme) });
});
