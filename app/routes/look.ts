import { data, redirect } from 'react-router';
import { lookHeaders } from '#server/cookies.ts';
import { openToAll } from '#server/guard.ts';
import type { Route } from './+types/look';

export const loader = openToAll(() => redirect('/'));

/** How pages look belongs to a browser and not to a person, so that nobody needs to be signed in. */
export const action = openToAll(async ({ request }: Route.ActionArgs) =>
  data(null, { headers: await lookHeaders(Object.fromEntries(await request.formData())) }),
);
