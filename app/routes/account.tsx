import { useState } from 'react';
import { data, useFetcher } from 'react-router';
import { z } from 'zod';
import { readFields, type Wrongs } from '#server/forms.ts';
import { guardedAction, guardedLoader, type Signed, to } from '#server/guard.ts';
import { type MastOf, mastOf } from '#server/people/mast.ts';
import { admit } from '#server/people/sign-in-limit.ts';
import { beginTwoStep, type Enrolment, endTwoStep, enrolment, hasTwoSteps } from '#server/people/two-step.ts';
import {
  changePassword,
  endSessionsOf,
  isOwnPassword,
  listSessions,
  renameAccount,
  type SessionRow,
} from '#server/store/accounts.ts';
import { note } from '#server/store/audit.ts';
import { NewPassword } from '#server/store/passwords.ts';
import { pageClock } from '#server/store/zone.ts';
import { accountLinks } from '../administration/account-links.ts';
import type { PageClock } from '../administration/clock.ts';
import { SessionsList } from '../administration/sessions-list.tsx';
import { Button } from '../ui/button.tsx';
import { CodeField } from '../ui/code-field.tsx';
import { TextField } from '../ui/field.tsx';
import { Mast } from '../ui/mast.tsx';
import { Page, Section } from '../ui/page.tsx';
import type { Route } from './+types/account';

interface Loaded {
  readonly of: MastOf;
  readonly sessions: readonly SessionRow[];
  readonly isTwoStep: boolean;
  readonly clock: PageClock;
}

/** Everybody's own page. */
export const loader = guardedLoader<Signed<Route.LoaderArgs>, Promise<Loaded>>(
  to('read', 'oneself'),
  async ({ user, context }) => {
    const [of, sessions, isTwoStep, clock] = await Promise.all([
      mastOf(user),
      listSessions(user.id, context.token),
      hasTwoSteps(user.id),
      pageClock(),
    ]);
    return { of, sessions, isTwoStep, clock };
  },
);

const Renaming = z.object({ name: z.string().trim().min(1, 'A name is needed.').max(200) });
const Password = z.object({ current: z.string().max(1000), password: NewPassword });

interface Answer {
  readonly wrong?: Wrongs<{ name: string; current: string; password: string; code: string }>;
  readonly saved?: string;
  readonly enrolment?: Enrolment;
  /** Shown once. */
  readonly codes?: readonly string[];
}

export const action = guardedAction(
  to('read', 'oneself'),
  async ({ request, user, context }: Signed<Route.ActionArgs>) => {
    const form = await request.formData();
    const fields = Object.fromEntries(form);
    const refused = (wrong: Answer['wrong'], more: Answer = {}, status = 400) =>
      data<Answer>({ ...more, wrong: wrong ?? {} }, { status });
    /** Runs what needs the password again, which is guessed here no faster than at the sign-in. */
    const withPassword = async (run: () => Promise<ReturnType<typeof data<Answer>>>) => {
      const admission = await admit({ email: user.email, address: context.address, place: context.place });
      if (!admission.ok)
        return refused({ current: 'Too many tries. Wait a minute, then try again.' }, {}, 429);
      if (!(await isOwnPassword(user.id, String(fields.current ?? '').slice(0, 1000)))) {
        await admission.failed();
        return refused({ current: 'This is not your password.' });
      }
      await admission.passed();
      return run();
    };
    switch (fields.intent) {
      case 'name': {
        const read = await readFields(fields, Renaming);
        if (!read.ok) return refused(read.wrong);
        await renameAccount(user.id, read.value.name);
        return data<Answer>({ saved: 'Saved' });
      }
      case 'password':
        return withPassword(async () => {
          const read = await readFields(fields, Password);
          if (!read.ok) return refused(read.wrong);
          await changePassword(user.id, read.value.password);
          await endSessionsOf(user.id, { except: context.token });
          await note(user.id, 'changed their password', user.email);
          return data<Answer>({ saved: 'Changed. You are signed out everywhere else.' });
        });
      case 'end': {
        const session = fields.session;
        await endSessionsOf(
          user.id,
          typeof session === 'string' ? { id: session } : { except: context.token },
        );
        return data<Answer>({});
      }
      case 'begin':
        return data<Answer>({ enrolment: await enrolment(user.email) });
      case 'confirm': {
        const secret = String(fields.secret ?? '');
        const codes = await beginTwoStep(user.id, secret, String(fields.code ?? '').slice(0, 40));
        if (codes === null)
          return refused(
            { code: 'This code does not fit. Wait for the next one; the clock of the device must be right.' },
            { enrolment: { secret, picture: String(fields.picture ?? '') } },
          );
        await note(user.id, 'turned two-step sign-in on', user.email);
        return data<Answer>({ codes });
      }
      case 'one step':
        return withPassword(async () => {
          await endTwoStep(user.id);
          await note(user.id, 'turned two-step sign-in off', user.email);
          return data<Answer>({ saved: 'Off' });
        });
      default:
        return data<Answer>({}, { status: 400 });
    }
  },
);

export default function Account({ loaderData: { of, sessions, isTwoStep, clock } }: Route.ComponentProps) {
  const fetcher = useFetcher<Answer>();
  return (
    <>
      <Mast name="Your account" home="/account" links={accountLinks} of={of} room="administration" />
      <Page title={of.person.name} lead={`${of.person.email}, ${of.person.role}`}>
        <div className="grid gap-x-12 gap-y-10 lg:grid-cols-2">
          <div className="flex min-w-0 flex-col gap-8">
            <NameForm name={of.person.name} />
            <PasswordForm />
          </div>
          <div className="flex min-w-0 flex-col gap-8">
            <TwoStep isOn={isTwoStep} />
            <Section
              title="Signed in"
              action={
                sessions.length > 1 && (
                  <Button
                    look="quiet"
                    onClick={() => void fetcher.submit({ intent: 'end' }, { method: 'post' })}
                  >
                    Sign out everywhere else
                  </Button>
                )
              }
            >
              <SessionsList
                sessions={sessions}
                clock={clock}
                onEnd={(session) => void fetcher.submit({ intent: 'end', session }, { method: 'post' })}
              />
            </Section>
          </div>
        </div>
      </Page>
    </>
  );
}

function Saved({ answer }: { answer: Answer | undefined }) {
  return (
    <span role="status" className="text-small text-slate">
      {answer?.saved}
    </span>
  );
}

function NameForm({ name }: { name: string }) {
  const fetcher = useFetcher<Answer>();
  return (
    <Section title="Name">
      <fetcher.Form method="post" className="flex flex-col gap-3 pt-2">
        <input type="hidden" name="intent" value="name" />
        <TextField
          label="What others see"
          name="name"
          required
          maxLength={200}
          autoComplete="name"
          defaultValue={name}
          problem={fetcher.data?.wrong?.name}
        />
        <div className="flex items-center gap-3">
          <Button type="submit" disabled={fetcher.state === 'submitting'}>
            Save
          </Button>
          <Saved answer={fetcher.data} />
        </div>
      </fetcher.Form>
    </Section>
  );
}

function PasswordNow(props: { readonly autoFocus?: boolean; readonly problem: string | undefined }) {
  return (
    <TextField
      label="Current password"
      name="current"
      type="password"
      required
      autoComplete="current-password"
      {...props}
    />
  );
}

function PasswordForm() {
  const fetcher = useFetcher<Answer>();
  const { wrong = {}, saved } = fetcher.data ?? {};
  return (
    <Section title="Password">
      {/* What was typed is gone once it is changed. */}
      <fetcher.Form key={saved} method="post" className="flex flex-col gap-3 pt-2">
        <input type="hidden" name="intent" value="password" />
        <PasswordNow problem={wrong.current} />
        <TextField
          label="New password"
          name="password"
          type="password"
          required
          autoComplete="new-password"
          hint="At least 12 characters; several words are easy to remember."
          problem={wrong.password}
        />
        <div className="flex items-center gap-3">
          <Button type="submit" disabled={fetcher.state === 'submitting'}>
            Change password
          </Button>
          <Saved answer={fetcher.data} />
        </div>
      </fetcher.Form>
    </Section>
  );
}

function TwoStep({ isOn }: { isOn: boolean }) {
  const fetcher = useFetcher<Answer>();
  const [isEnding, setEnding] = useState(false);
  const { wrong = {}, enrolment: enrolling, codes } = fetcher.data ?? {};
  const busy = fetcher.state === 'submitting';
  if (codes)
    return (
      <Section title="Two-step sign-in">
        <div role="status" className="flex flex-col gap-3 pt-2">
          <p>
            On. Keep these codes where you find them without your device: each signs you in once. They are not
            shown again.
          </p>
          <ul className="grid grid-cols-2 gap-x-6 gap-y-1 font-mono">
            {codes.map((code) => (
              <li key={code}>{code}</li>
            ))}
          </ul>
        </div>
      </Section>
    );
  if (isOn)
    return (
      <Section title="Two-step sign-in">
        {isEnding ? (
          <fetcher.Form method="post" className="flex flex-col gap-3 pt-2">
            <input type="hidden" name="intent" value="one step" />
            <PasswordNow autoFocus problem={wrong.current} />
            <div className="flex gap-2">
              <Button type="submit" look="main" disabled={busy}>
                Turn off
              </Button>
              <Button look="quiet" onClick={() => setEnding(false)}>
                Cancel
              </Button>
            </div>
          </fetcher.Form>
        ) : (
          <div className="flex items-baseline justify-between gap-3 py-1.5">
            <span>On: a code from your device is asked for after your password.</span>
            <Button look="quiet" onClick={() => setEnding(true)}>
              Turn off
            </Button>
          </div>
        )}
      </Section>
    );
  return (
    <Section title="Two-step sign-in">
      {enrolling ? (
        <fetcher.Form method="post" className="flex flex-col gap-3 pt-2">
          <input type="hidden" name="intent" value="confirm" />
          <input type="hidden" name="secret" value={enrolling.secret} />
          <input type="hidden" name="picture" value={enrolling.picture} />
          <p>
            Photograph this with the app of your device that makes codes, or type the key beneath into it.
          </p>
          <img
            src={enrolling.picture}
            alt="The key, to be read by a camera"
            width={200}
            height={200}
            className="rounded-[4px] bg-white"
          />
          <p className="font-mono text-small break-all select-all">{enrolling.secret}</p>
          <CodeField problem={wrong.code} isFirst />
          <Button type="submit" look="main" disabled={busy} className="self-start">
            Turn on
          </Button>
        </fetcher.Form>
      ) : (
        <fetcher.Form method="post" className="flex flex-col items-start gap-3 pt-2">
          <input type="hidden" name="intent" value="begin" />
          <p className="text-slate">
            Off. With it, somebody who has your password still cannot sign in without your device.
          </p>
          <Button type="submit" disabled={busy}>
            Turn on …
          </Button>
        </fetcher.Form>
      )}
    </Section>
  );
}
