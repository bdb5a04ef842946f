import { randomBytes } from 'node:crypto';
import { data, Form, redirectDocument, useNavigation } from 'react-router';
import { z } from 'zod';
import { signedInHeaders } from '#server/cookies.ts';
import { readFields, type Wrongs } from '#server/forms.ts';
import { fromOf, openToAll } from '#server/guard.ts';
import { admit } from '#server/people/sign-in-limit.ts';
import { note } from '#server/store/audit.ts';
import { acceptInvite, findInvite } from '#server/store/invites.ts';
import { NewPassword } from '#server/store/passwords.ts';
import { beginSession } from '#server/store/people.ts';
import { Button, ButtonLink } from '../ui/button.tsx';
import { TextField } from '../ui/field.tsx';
import { Mark } from '../ui/mark.tsx';
import type { Route } from './+types/join';

/** For whoever has a link that asks them in. */
export const loader = openToAll(async ({ params }: Route.LoaderArgs) => ({
  invited: await findInvite(params.code.slice(0, 100)),
}));

const Joining = z.object({
  name: z.string().trim().min(1, 'A name is needed.').max(200),
  password: NewPassword,
});

export const action = openToAll(async ({ params, request, context }: Route.ActionArgs) => {
  const code = params.code.slice(0, 100);
  const invited = await findInvite(code);
  const refused = (wrong: Wrongs<z.infer<typeof Joining>>, status: number) => data({ wrong }, { status });
  // Links are guessed no faster than passwords.
  const admission = await admit({ email: 'join', address: context.address, place: null });
  if (!admission.ok)
    return refused(
      { password: `Too many tries. Wait ${Math.ceil(admission.seconds / 60)} min, then try again.` },
      429,
    );
  if (!invited) {
    await admission.failed();
    return refused({}, 404);
  }
  await admission.passed();
  const read = await readFields(Object.fromEntries(await request.formData()), Joining);
  if (!read.ok) return refused(read.wrong, 400);
  const id = await acceptInvite(code, read.value);
  if (id === null) return refused({}, 404);
  await note(id, 'accepted an invite', invited.email);
  const place = context.place ?? randomBytes(24).toString('base64url');
  const token = await beginSession(id, fromOf(request, context, place));
  return redirectDocument('/', { headers: await signedInHeaders(token, place) });
});

export default function Join({ loaderData: { invited }, actionData }: Route.ComponentProps) {
  const busy = useNavigation().state !== 'idle';
  const wrong = actionData?.wrong ?? {};
  return (
    <main
      id="main"
      tabIndex={-1}
      className="mx-auto flex min-h-screen max-w-xl flex-col justify-center gap-8 p-8"
    >
      <title>Join · Slate Glass</title>
      <p className="flex items-center gap-3 text-lead font-strong">
        <Mark className="size-7" /> Slate Glass
      </p>
      {invited ? (
        <Form method="post" className="flex flex-col gap-4">
          <h1 className="text-title">You are invited</h1>
          <p className="text-slate">
            You sign in as <b>{invited.email}</b>, with the password that you choose here.
          </p>
          {/* For password managers, which keep it with the address. */}
          <input type="hidden" autoComplete="username" defaultValue={invited.email} />
          <TextField
            label="Your name"
            name="name"
            required
            maxLength={200}
            autoComplete="name"
            defaultValue={invited.name}
            problem={wrong.name}
          />
          <TextField
            label="A password"
            name="password"
            type="password"
            required
            autoComplete="new-password"
            hint="At least 12 characters; several words are easy to remember."
            problem={wrong.password}
          />
          <Button type="submit" look="main" disabled={busy} className="self-start">
            {busy ? 'Joining …' : 'Join'}
          </Button>
        </Form>
      ) : (
        <div className="flex flex-col items-start gap-3">
          <h1 className="text-title">This link is no longer good</h1>
          <p className="text-lead text-slate">
            It has been used, withdrawn, or is older than seven days. Ask whoever sent it for another.
          </p>
          <ButtonLink to="/sign-in">Sign in</ButtonLink>
        </div>
      )}
    </main>
  );
}
