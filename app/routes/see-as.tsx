import { data, Form, redirect } from 'react-router';
import { seeAsHeaders } from '#server/cookies.ts';
import { guardedAction, guardedLoader, notFound, type Signed, to } from '#server/guard.ts';
import { isId } from '#server/ids.ts';
import { type MastOf, mastOf } from '#server/people/mast.ts';
import { may } from '#server/permission.ts';
import { safePath } from '#server/safe-path.ts';
import { note } from '#server/store/audit.ts';
import { type Desk, findDesk } from '#server/store/desks.ts';
import { findUser, peopleWhoRead } from '#server/store/people.ts';
import { Button } from '../ui/button.tsx';
import { TextField } from '../ui/field.tsx';
import { Mast } from '../ui/mast.tsx';
import { Page } from '../ui/page.tsx';
import type { Route } from './+types/see-as';

const mostListed = 50;

interface Loaded {
  readonly desk: Desk | null;
  readonly people: readonly { readonly id: string; readonly name: string; readonly role: string }[];
  readonly find: string;
  readonly back: string;
  readonly of: MastOf;
}

/** Chooses as whom to look at a desk. */
export const loader = guardedLoader<Signed<Route.LoaderArgs>, Promise<Loaded>>(
  to('build'),
  async ({ request, user }) => {
    const { searchParams } = new URL(request.url);
    const find = (searchParams.get('find') ?? '').trim().slice(0, 200);
    const desk = await findDesk(searchParams.get('desk') ?? '');
    if (!desk || !may(user, 'build', { desk: desk.id })) throw notFound('desk');
    const [people, of] = await Promise.all([
      peopleWhoRead(desk.id, { find, except: user.id, limit: mostListed }),
      mastOf(user, desk),
    ]);
    return { desk, people, find, back: safePath(searchParams.get('back')), of };
  },
);

/** Begins to look as somebody, or, with nobody said, ends it. */
export const action = guardedAction(to('build'), async ({ request, user }: Signed<Route.ActionArgs>) => {
  const form = await request.formData();
  const back = safePath(String(form.get('back') ?? '/'));
  const id = form.get('person');
  if (id === null) return redirect(back, { headers: await seeAsHeaders(null) });
  const other = isId(id) ? await findUser(id) : null;
  const desk = await findDesk(String(form.get('desk') ?? ''));
  if (!other || !desk || !may(user, 'build', { desk: desk.id }) || !may(other, 'read', { desk: desk.id }))
    return data({ problem: 'This person does not read this desk.' }, { status: 400 });
  await note(user.id, 'saw a desk as', `${desk.name}, ${other.email}`);
  return redirect(back, { headers: await seeAsHeaders(other.id) });
});

export default function SeeAs({ loaderData: { desk, people, find, back, of } }: Route.ComponentProps) {
  if (!desk) return null;
  return (
    <>
      <Mast name={desk.name} home={`/desk/${desk.slug}`} links={[]} of={of} room="desk" />
      <Page
        title="See it as"
        lead={`Whom ${desk.name} is shown to: you get exactly their page, with the records that they may see. It is noted that you looked.`}
      >
        <Form role="search" className="mb-4 flex max-w-md items-end gap-2">
          <input type="hidden" name="desk" value={desk.slug} />
          <input type="hidden" name="back" value={back} />
          <div className="flex-1">
            <TextField label="Find by name or address" name="find" defaultValue={find} maxLength={200} />
          </div>
          <Button type="submit">Find</Button>
        </Form>
        <ul className="max-w-2xl border-t border-hair">
          {people.map(({ id, name, role }) => (
            <li key={id} className="flex items-center justify-between gap-4 border-b border-hair py-1.5">
              <span className="min-w-0 truncate">
                <b>{name}</b> <span className="text-slate">{role}</span>
              </span>
              <Form method="post">
                <input type="hidden" name="person" value={id} />
                <input type="hidden" name="desk" value={desk.slug} />
                <input type="hidden" name="back" value={back} />
                <Button type="submit" aria-label={`See it as ${name}`}>
                  See it as
                </Button>
              </Form>
            </li>
          ))}
        </ul>
        {people.length === 0 && <p className="mt-3 text-muted">Nobody else reads this desk by that name.</p>}
        {people.length === mostListed && (
          <p className="mt-3 text-small text-muted">The first {mostListed}. Find others by their name.</p>
        )}
      </Page>
    </>
  );
}
