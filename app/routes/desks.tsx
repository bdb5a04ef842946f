import { useEffect, useState } from 'react';
import { data, Form, Link, redirect, useFetcher, useNavigation } from 'react-router';
import { z } from 'zod';
import { counted } from '#core/value/format/counted.ts';
import { isZone } from '#core/value/period/zone.ts';
import { readFields, type Wrongs } from '#server/forms.ts';
import { guardedAction, guardedLoader, type Signed, to } from '#server/guard.ts';
import { note } from '#server/store/audit.ts';
import { addDesk, type DeskRow, listDeskRows, orderDesks } from '#server/store/desks.ts';
import { Sortable } from '../administration/sortable.tsx';
import { zoneChoices } from '../administration/zones.ts';
import { Button } from '../ui/button.tsx';
import { TextField } from '../ui/field.tsx';
import { Page, Section } from '../ui/page.tsx';
import { SelectField } from '../ui/select-field.tsx';
import type { Route } from './+types/desks';

export const loader = guardedLoader<Route.LoaderArgs, Promise<{ desks: DeskRow[]; zones: string[] }>>(
  to('administer', 'the installation'),
  async () => ({
    desks: await listDeskRows(),
    zones: ['UTC', ...Intl.supportedValuesOf('timeZone').filter((zone) => zone !== 'UTC')],
  }),
);

const NewDesk = z.object({
  name: z.string().trim().min(1, 'A name is needed.').max(100),
  zone: z.string().refine(isZone, 'There is no such time zone.'),
});

export const action = guardedAction(
  to('administer', 'the installation'),
  async ({ request, user }: Signed<Route.ActionArgs>) => {
    const form = await request.formData();
    if (form.get('intent') === 'order') {
      const order = z.array(z.uuid()).max(1000).safeParse(form.getAll('desk'));
      if (order.success) await orderDesks(order.data);
      return data<{ wrong: Wrongs<z.infer<typeof NewDesk>> }>({ wrong: {} });
    }
    const read = await readFields(Object.fromEntries(form), NewDesk);
    if (!read.ok) return data({ wrong: read.wrong }, { status: 400 });
    const desk = await addDesk(read.value);
    await note(user.id, 'added a desk', desk.name);
    throw redirect(`/administration/desks/${desk.slug}`);
  },
);

export default function Desks({ loaderData: { desks, zones }, actionData }: Route.ComponentProps) {
  const busy = useNavigation().state !== 'idle';
  const fetcher = useFetcher();
  const [order, setOrder] = useState(desks);
  useEffect(() => setOrder(desks), [desks]);
  const put = (items: readonly DeskRow[]): void => {
    setOrder([...items]);
    const form = new FormData();
    form.set('intent', 'order');
    for (const { id } of items) form.append('desk', id);
    void fetcher.submit(form, { method: 'post' });
  };
  const wrong = actionData && 'wrong' in actionData ? actionData.wrong : {};
  return (
    <Page title="Desks" lead="A desk is a team’s dashboards under one name, with readers of their own.">
      <div className="grid gap-x-12 gap-y-10 lg:grid-cols-[minmax(0,1.6fr)_minmax(0,1fr)]">
        <Section title="In this order">
          <Sortable items={order} onOrder={put}>
            {({ name, slug, dashboards, people, isOpen, zone }) => (
              <div className="grid min-w-0 flex-1 grid-cols-[minmax(0,1fr)_auto] items-baseline gap-x-4">
                <Link
                  to={`/administration/desks/${slug}`}
                  className="truncate font-strong text-accent hover:underline"
                >
                  {name}
                </Link>
                <span className="text-small text-muted">{zone.replaceAll('_', ' ')}</span>
                <span className="col-span-2 text-small text-slate">
                  {counted(dashboards, 'dashboard')},{' '}
                  {isOpen
                    ? 'read by everybody who is signed in'
                    : `${counted(people, 'person', 'people')} by name`}
                </span>
              </div>
            )}
          </Sortable>
          {order.length === 0 && <p className="pt-2 text-muted">There is no desk yet.</p>}
        </Section>
        <Section title="Add a desk">
          <Form method="post" className="flex flex-col gap-4 pt-2">
            <TextField
              label="Name"
              name="name"
              required
              maxLength={100}
              hint="Such as Harbour office."
              problem={wrong.name}
            />
            <SelectField
              label="Time zone"
              name="zone"
              defaultValue={desks[0]?.zone ?? 'UTC'}
              problem={wrong.zone}
              choices={zoneChoices(zones)}
            />
            <Button type="submit" look="main" className="self-start" disabled={busy}>
              Add desk
            </Button>
          </Form>
        </Section>
      </div>
    </Page>
  );
}
