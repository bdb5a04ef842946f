import { data, Link, redirect, useFetcher, useNavigation } from 'react-router';
import { z } from 'zod';
import { isZone } from '#core/value/period/zone.ts';
import { capital } from '#core/words/capital.ts';
import { readFields, type Wrongs } from '#server/forms.ts';
import { guardedAction, guardedLoader, notFound, type Signed, to } from '#server/guard.ts';
import { note } from '#server/store/audit.ts';
import { changeDesk, type DeskSettings, deskSettings, removeDesk } from '#server/store/desks.ts';
import { deskAccents } from '#server/store/tables/desks.ts';
import { zoneChoices } from '../administration/zones.ts';
import { Button, ButtonLink } from '../ui/button.tsx';
import { ConfirmRemove } from '../ui/confirm-remove.tsx';
import { CheckField, TextField } from '../ui/field.tsx';
import { Wrong } from '../ui/message.tsx';
import { Page, Section } from '../ui/page.tsx';
import { SelectField } from '../ui/select-field.tsx';
import type { Route } from './+types/desk-settings';

interface Loaded {
  readonly desk: DeskSettings;
  readonly zones: readonly string[];
  readonly accents: typeof deskAccents;
}

export const loader = guardedLoader<Signed<Route.LoaderArgs>, Promise<Loaded>>(
  to('administer', 'the installation'),
  async ({ params }) => {
    const desk = await deskSettings(params.desk);
    if (!desk) throw notFound('desk');
    const zones = ['UTC', ...Intl.supportedValuesOf('timeZone').filter((zone) => zone !== 'UTC')];
    return { desk, zones, accents: deskAccents };
  },
);

const ticked = z
  .literal('yes')
  .optional()
  .transform((answer) => answer === 'yes');

const Change = z.object({
  name: z.string().trim().min(1, 'A name is needed.').max(100),
  zone: z.string().refine(isZone, 'There is no such time zone.'),
  accent: z.enum(deskAccents),
  isOpen: ticked,
  publicLinks: ticked,
});

interface Answer {
  readonly wrong?: Wrongs<z.infer<typeof Change>>;
  readonly problem?: string;
  readonly saved?: true;
}

export const action = guardedAction(
  to('administer', 'the installation'),
  async ({ params, request, user }: Signed<Route.ActionArgs>) => {
    const desk = await deskSettings(params.desk);
    if (!desk) throw notFound('desk');
    const form = await request.formData();
    if (form.get('intent') === 'remove') {
      if (!(await removeDesk(desk.id)))
        return data<Answer>(
          { problem: 'Dashboards stand on this desk. Move or remove them first.' },
          { status: 400 },
        );
      await note(user.id, 'removed a desk', desk.name);
      throw redirect('/administration/desks');
    }
    const read = await readFields(Object.fromEntries(form), Change);
    if (!read.ok) return data<Answer>({ wrong: read.wrong }, { status: 400 });
    await changeDesk(desk.id, read.value);
    await note(user.id, 'changed a desk', read.value.name);
    return data<Answer>({ saved: true });
  },
);

export default function DeskSettingsPage({ loaderData: { desk, zones, accents } }: Route.ComponentProps) {
  const busy = useNavigation().state !== 'idle';
  const fetcher = useFetcher<Answer>();
  const saving = useFetcher<Answer>();
  const wrong = saving.data?.wrong ?? {};
  return (
    <Page
      title={desk.name}
      lead="What the desk is called, whose days it counts in, and who may come to it."
      action={<ButtonLink to={`/workroom/menu/${desk.slug}`}>Arrange its menu</ButtonLink>}
    >
      <div className="grid gap-x-12 gap-y-10 lg:grid-cols-[minmax(0,1fr)_minmax(0,1fr)]">
        <Section title="Settings">
          <saving.Form key={desk.id} method="post" className="flex flex-col gap-4 pt-2">
            <TextField
              label="Name"
              name="name"
              required
              maxLength={100}
              defaultValue={desk.name}
              problem={wrong.name}
            />
            <SelectField
              label="Time zone"
              name="zone"
              defaultValue={desk.zone}
              problem={wrong.zone}
              hint="Days, weeks and months are those of this zone."
              choices={zoneChoices(zones)}
            />
            <SelectField
              label="Colour of its edge"
              name="accent"
              defaultValue={desk.accent}
              hint="A line along the bar on top, so that people see at once where they are."
              choices={accents.map((value) => ({ value, words: capital(value) }))}
            />
            <CheckField
              name="isOpen"
              value="yes"
              defaultChecked={desk.isOpen}
              label="Everybody who is signed in may read it"
            />
            <CheckField
              name="publicLinks"
              value="yes"
              defaultChecked={desk.publicLinks}
              label="Analysts may make links that show a dashboard to everybody, without signing in"
            />
            <div className="flex items-center gap-3">
              <Button type="submit" look="main" disabled={busy || saving.state === 'submitting'}>
                Save
              </Button>
              {saving.data?.saved && saving.state === 'idle' && (
                <span role="status" className="text-small text-slate">
                  Saved
                </span>
              )}
            </div>
          </saving.Form>
        </Section>
        <div className="flex min-w-0 flex-col gap-8">
          <Section title="Who has a role here">
            <ul>
              {desk.people.map(({ id, name, role }) => (
                <li key={id} className="flex justify-between gap-3 border-b border-hair py-1.5">
                  <Link to={`/administration/people/${id}`} className="truncate text-accent hover:underline">
                    {name}
                  </Link>
                  <span className="text-slate">{role}</span>
                </li>
              ))}
              {desk.groups.map(({ id, name, role }) => (
                <li key={id} className="flex justify-between gap-3 border-b border-hair py-1.5">
                  <Link to="/administration/groups" className="truncate text-accent hover:underline">
                    {name} <span className="text-muted">(group)</span>
                  </Link>
                  <span className="text-slate">{role}</span>
                </li>
              ))}
            </ul>
            {desk.people.length + desk.groups.length === 0 && (
              <p className="pt-2 text-muted">Nobody by name. Administrators may always come.</p>
            )}
          </Section>
          <Section title="No longer needed">
            <div className="flex flex-col items-start gap-2 pt-2">
              <ConfirmRemove
                what={`the desk ${desk.name}`}
                goesWith={['Only a desk without dashboards can be removed. Its follow-ups go with it.']}
                trigger={<Button>Remove the desk</Button>}
                onRemove={() => void fetcher.submit({ intent: 'remove' }, { method: 'post' })}
              />
              {fetcher.data?.problem && <Wrong>{fetcher.data.problem}</Wrong>}
            </div>
          </Section>
        </div>
      </div>
    </Page>
  );
}
