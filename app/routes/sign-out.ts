import { redirect } from 'react-router';
import { signedOutHeaders } from '#server/cookies.ts';
import { openToAll } from '#server/guard.ts';
import { signOut } from '#server/store/people.ts';
import type { Route } from './+types/sign-out';

export const loader = openToAll(() => redirect('/'));

export const action = openToAll(async ({ context }: Route.ActionArgs) => {
  if (context.token) await signOut(context.token);
  return redirect('/sign-in', { headers: await signedOutHeaders() });
});
