import { randomBytes } from 'node:crypto';
import { data, Form, redirect, redirectDocument, useNavigation } from 'react-router';
import { signedInHeaders } from '#server/cookies.ts';
import { readFields, type Wrongs } from '#server/forms.ts';
import { fromOf, openToAll } from '#server/guard.ts';
import { FirstPerson, isCode, isSetUp, setUp } from '#server/people/set-up.ts';
import { admit } from '#server/people/sign-in-limit.ts';
import { note } from '#server/store/audit.ts';
import { signIn } from '#server/store/people.ts';
import { Button } from '../ui/button.tsx';
import { TextField } from '../ui/field.tsx';
import { Mark } from '../ui/mark.tsx';
import { SelectField } from '../ui/select-field.tsx';
import type { Route } from './+types/set-up';

/** Only while nobody can sign in. */
export const loader = openToAll(async () => {
  if (await isSetUp()) throw redirect('/sign-in');
  return { zones: ['UTC', ...Intl.supportedValuesOf('timeZone').filter((zone) => zone !== 'UTC')] };
});

type Wrong = Wrongs<FirstPerson>;

export const action = openToAll(async ({ request, context }: Route.ActionArgs) => {
  if (await isSetUp()) throw redirect('/sign-in');
  const fields = Object.fromEntries(await request.formData());
  const { password: _, ...kept } = fields as Record<string, string>;
  const refused = (wrong: Wrong, status: number) => data({ wrong, kept }, { status });
  // Codes are guessed no faster than passwords.
  const admission = await admit({ email: 'set-up', address: context.address, place: null });
  if (!admission.ok)
    return refused(
      { code: `Too many tries. Wait ${Math.ceil(admission.seconds / 60)} min, then try again.` },
      429,
    );
  if (!isCode(String(fields.code ?? ''))) {
    await admission.failed();
    return refused({ code: 'This is not the code that stands on the console.' }, 400);
  }
  await admission.passed();
  const read = await readFields(fields, FirstPerson);
  if (!read.ok) return refused(read.wrong, 400);
  const { email, password, desk } = read.value;
  if (!(await setUp(read.value))) throw redirect('/sign-in');
  await note(null, 'set the installation up', `${email}, ${desk}`);
  const place = randomBytes(24).toString('base64url');
  const token = await signIn(email, password, fromOf(request, context, place));
  if (token === null) throw redirect('/sign-in');
  return redirectDocument('/workroom/sources/new', { headers: await signedInHeaders(token, place) });
});

export default function SetUp({ loaderData: { zones }, actionData }: Route.ComponentProps) {
  const busy = useNavigation().state !== 'idle';
  const { wrong = {}, kept = {} } = actionData ?? {};
  const text = (name: Exclude<keyof FirstPerson, 'zone'>, label: string, more: object = {}) => (
    <TextField
      label={label}
      name={name}
      required
      defaultValue={kept[name] ?? ''}
      problem={wrong[name]}
      {...more}
    />
  );
  return (
    <main
      id="main"
      tabIndex={-1}
      className="mx-auto flex min-h-screen max-w-xl flex-col justify-center gap-8 p-8"
    >
      <title>Set up · Slate Glass</title>
      <p className="flex items-center gap-3 text-lead font-strong">
        <Mark className="size-7" /> Slate Glass
      </p>
      <Form method="post" className="flex flex-col gap-4">
        <h1 className="text-title">Set it up</h1>
        <p className="text-slate">
          Nobody can sign in here yet. Whoever has the code from the console becomes the first administrator.
        </p>
        {text('code', 'Code from the console', {
          autoFocus: true,
          autoComplete: 'off',
          className: 'font-mono',
        })}
        <fieldset className="flex flex-col gap-4 border-t border-hair pt-4">
          <legend className="sr-only">The first administrator</legend>
          {text('name', 'Your name', { autoComplete: 'name' })}
          {text('email', 'Your e-mail address', { type: 'email', autoComplete: 'username' })}
          {text('password', 'A password', {
            type: 'password',
            autoComplete: 'new-password',
            hint: 'At least 12 characters. It is never shown again.',
            defaultValue: undefined,
          })}
        </fieldset>
        <fieldset className="flex flex-col gap-4 border-t border-hair pt-4">
          <legend className="sr-only">The first desk</legend>
          {text('desk', 'Your team’s desk', {
            hint: 'What its dashboards stand under, such as Harbour office.',
          })}
          <SelectField
            label="Its time zone"
            name="zone"
            defaultValue={kept.zone ?? 'UTC'}
            problem={wrong.zone}
            choices={zones.map((zone) => ({ value: zone, words: zone.replaceAll('_', ' ') }))}
          />
        </fieldset>
        <Button type="submit" look="main" disabled={busy} className="self-start">
          {busy ? 'Setting up …' : 'Set up and sign in'}
        </Button>
      </Form>
    </main>
  );
}
