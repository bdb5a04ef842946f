import { randomBytes } from 'node:crypto';
import { data, Form, redirect, redirectDocument, useNavigation } from 'react-router';
import { demoPassword, demoPeople } from '#demo/people.ts';
import { signedInHeaders } from '#server/cookies.ts';
import { fromOf, openToAll, person } from '#server/guard.ts';
import { providerName } from '#server/people/provider.ts';
import { isSetUp } from '#server/people/set-up.ts';
import { admit } from '#server/people/sign-in-limit.ts';
import { hasTwoSteps, passesTwoStep } from '#server/people/two-step.ts';
import { safePath } from '#server/safe-path.ts';
import { settings } from '#server/settings.ts';
import { note } from '#server/store/audit.ts';
import { accountOf, beginSession, whoseSignIn } from '#server/store/people.ts';
import { Button } from '../ui/button.tsx';
import { CodeField } from '../ui/code-field.tsx';
import { TextField } from '../ui/field.tsx';
import { here } from '../ui/here.ts';
import { Mark } from '../ui/mark.tsx';
import { Wrong } from '../ui/message.tsx';
import type { Route } from './+types/sign-in';

export const loader = openToAll(async ({ request, context }: Route.LoaderArgs) => {
  const to = safePath(new URL(request.url).searchParams.get('to'));
  if (await person(context)) throw redirect(to);
  if (!(await isSetUp())) throw redirect('/set-up');
  const problem = new URL(request.url).searchParams.get('problem') ?? '';
  return {
    to,
    provider: providerName(),
    problem: problems[problem] ?? null,
    demo: settings().SLATE_DEMO ? { people: demoPeople, password: demoPassword } : null,
  };
});

/** What went wrong elsewhere, by what the address calls it. */
const problems: Readonly<Record<string, string>> = {
  away: 'It cannot be reached just now. Try again in a minute, or sign in with a password.',
  late: 'That took too long, or began in another browser. Try again.',
  'not-signed-in': 'You were not signed in there. Try again.',
  'no-account':
    'You have no account here yet, and none of your groups has. Ask an administrator to invite you.',
  'address-not-theirs':
    'There is an account here with your address, and it is not sure that it is yours. Ask an administrator.',
};

const waitWords = (seconds: number): string =>
  seconds < 90 ? 'a minute' : `${Math.ceil(seconds / 60)} minutes`;

export const action = openToAll(async ({ request, context }: Route.ActionArgs) => {
  const form = await request.formData();
  const email = accountOf(String(form.get('email') ?? '').slice(0, 320));
  const password = String(form.get('password') ?? '').slice(0, 1000);
  const stay = form.get('stay') === 'yes';
  const admission = await admit({ email, address: context.address, place: context.place });
  if (!admission.ok)
    return data(
      {
        problem: `Too many tries. Wait ${waitWords(admission.seconds)}, then try again.`,
        email,
        signedIn: false,
        needsCode: false,
      },
      { status: 429, headers: { 'Retry-After': String(admission.seconds) } },
    );
  const userId = await whoseSignIn(email, password);
  const refused = async (problem: string, needsCode: boolean, why: string) => {
    await admission.failed();
    await note(null, why, `${email} from ${context.address}`);
    return data({ problem, email, signedIn: false, needsCode }, { status: 400 });
  };
  if (userId === null)
    return refused('The e-mail address and password do not match.', false, 'failed to sign in');
  if (await hasTwoSteps(userId)) {
    const code = String(form.get('code') ?? '').slice(0, 40);
    if (code === '') return data({ problem: null, email, signedIn: false, needsCode: true }, { status: 400 });
    if (!(await passesTwoStep(userId, code)))
      return refused(
        'This code is wrong or has been used. Wait for the next one.',
        true,
        'gave a wrong code',
      );
  }
  const place = context.place ?? randomBytes(24).toString('base64url');
  const token = await beginSession(userId, fromOf(request, context, place));
  await admission.passed();
  const headers = await signedInHeaders(token, place);
  // Signing in again in the middle of an edit keeps the page, and what was typed in it.
  if (stay) return data({ problem: null, email, signedIn: true, needsCode: false }, { headers });
  return redirectDocument(safePath(String(form.get('to') ?? '/')), { headers });
});

export default function SignIn({ loaderData, actionData }: Route.ComponentProps) {
  const { to, provider, problem, demo } = loaderData;
  const busy = useNavigation().state !== 'idle';
  return (
    <main id="main" tabIndex={-1} className="grid min-h-screen lg:grid-cols-[1fr_1fr]">
      <title>Sign in · Slate Glass</title>
      <div className="glass hidden flex-col justify-between p-12 lg:flex">
        <p className="flex items-center gap-3 text-lead font-strong">
          <Mark className="size-7" /> Slate Glass
        </p>
        <p className="max-w-md text-title">
          What your systems know, in sentences and numbers that everybody can read.
        </p>
        <p className="text-small text-on-glass-muted">Every number opens onto the records behind it.</p>
      </div>
      <div className="flex flex-col justify-center gap-8 p-8 sm:p-16">
        <Form method="post" className="flex max-w-sm flex-col gap-4">
          <h1 className="text-title">Sign in</h1>
          {provider !== null && (
            <div className="flex flex-col items-start gap-2 border-b border-hair pb-4">
              <a
                href={here(`/sign-in/provider?${new URLSearchParams({ to })}`)}
                className="inline-flex min-h-8 items-center rounded-[4px] border border-line bg-sheet px-3 py-1 text-small font-strong hover:border-accent hover:text-accent"
              >
                Sign in with {provider}
              </a>
              {problem !== null && <Wrong>{problem}</Wrong>}
            </div>
          )}
          <input type="hidden" name="to" value={to} />
          <TextField
            label="E-mail address"
            name="email"
            type="email"
            autoComplete="username"
            required
            autoFocus
            defaultValue={actionData?.email ?? ''}
          />
          <TextField
            label="Password"
            name="password"
            type="password"
            autoComplete="current-password"
            required
            problem={actionData?.needsCode ? undefined : (actionData?.problem ?? undefined)}
          />
          {actionData?.needsCode && <CodeField problem={actionData.problem ?? undefined} />}
          <Button type="submit" look="main" disabled={busy} className="self-start">
            {busy ? 'Signing in …' : 'Sign in'}
          </Button>
        </Form>
        {demo && (
          <section className="max-w-sm border-t border-hair pt-4 text-small">
            <h2 className="mb-2 text-slate">This is a demo: sign in as</h2>
            <ul className="flex flex-col gap-1">
              {demo.people.map(({ email, role }) => (
                <li key={email} className="flex justify-between gap-4">
                  <span className="font-mono">{email}</span>
                  <span className="text-muted">{role}</span>
                </li>
              ))}
            </ul>
            <p className="mt-2">
              The password of each is <span className="font-mono">{demo.password}</span>
            </p>
          </section>
        )}
      </div>
    </main>
  );
}
