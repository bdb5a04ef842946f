import { useEffect, useState } from 'react';
import { data, Link, useFetcher } from 'react-router';
import { z } from 'zod';
import { guardedAction, guardedLoader, notFound, type Signed, to } from '#server/guard.ts';
import { desksOf } from '#server/people/desks-of.ts';
import { note } from '#server/store/audit.ts';
import { deskOfDashboard, type MenuItem, menuOf, moveDashboard } from '#server/store/dashboards.ts';
import { arrangeMenu, type Desk, findDesk } from '#server/store/desks.ts';
import { Sortable } from '../administration/sortable.tsx';
import { ChoiceBox } from '../ui/choice.tsx';
import { smallBox } from '../ui/field.tsx';
import { Page } from '../ui/page.tsx';
import type { Route } from './+types/menu';

interface Loaded {
  readonly desk: Desk;
  readonly menu: MenuItem[];
  /** Where else a dashboard can be moved to. */
  readonly others: readonly Desk[];
}

export const loader = guardedLoader<Signed<Route.LoaderArgs>, Promise<Loaded>>(
  to('build', 'the desk'),
  async ({ params, user }) => {
    const desk = await findDesk(params.desk);
    if (!desk) throw notFound('desk');
    const [menu, desks] = await Promise.all([menuOf(desk.id, false), desksOf(user, 'build')]);
    return { desk, menu, others: desks.filter(({ id }) => id !== desk.id) };
  },
);

const Menu = z.array(z.object({ id: z.uuid(), group: z.string().trim().max(60) })).max(1000);

export const action = guardedAction(
  to('build', 'the desk'),
  async ({ params, request, user }: Signed<Route.ActionArgs>) => {
    const desk = await findDesk(params.desk);
    if (!desk) throw notFound('desk');
    const sent = await request.formData();
    if (sent.get('intent') === 'move') {
      const [id, to_] = [z.uuid().safeParse(sent.get('dashboard')), String(sent.get('to'))];
      const other = (await desksOf(user, 'build')).find(({ slug }) => slug === to_);
      if (!id.success || !other || (await deskOfDashboard(id.data)) !== desk.id)
        return data({ problem: 'It cannot be moved there.' }, { status: 400 });
      await moveDashboard(id.data, other.id);
      await note(user.id, 'moved a dashboard', `from ${desk.name} to ${other.name}`);
      return data({ problem: null });
    }
    const read = Menu.safeParse(
      sent.getAll('dashboard').map((id, at) => ({ id, group: sent.getAll('group')[at] })),
    );
    if (!read.success) return data({ problem: 'The menu could not be read.' }, { status: 400 });
    await arrangeMenu(desk.id, read.data);
    await note(user.id, 'arranged the menu', desk.name);
    return data({ problem: null });
  },
);

export default function DeskMenuPage({ loaderData: { desk, menu, others } }: Route.ComponentProps) {
  const fetcher = useFetcher<{ problem: string | null }>();
  const [items, setItems] = useState(menu);
  useEffect(() => setItems(menu), [menu]);
  const put = (now: readonly MenuItem[]): void => {
    setItems([...now]);
    const form = new FormData();
    for (const { id, group } of now) {
      form.append('dashboard', id);
      form.append('group', group);
    }
    void fetcher.submit(form, { method: 'post' });
  };
  return (
    <Page
      title={`Menu of ${desk.name}`}
      lead="The first one is the desk’s home. Those with the same words beside them stand under these words."
    >
      <Sortable items={items.map((item) => ({ ...item, name: item.title }))} onOrder={put}>
        {(item) => (
          <div className="grid min-w-0 flex-1 grid-cols-[minmax(0,1.4fr)_minmax(0,1fr)_7rem_auto] items-center gap-4">
            <Link
              to={`/workroom/dashboards/${item.id}`}
              className="truncate font-strong text-accent hover:underline"
            >
              {item.title}
            </Link>
            <input
              aria-label={`${item.title} stands under`}
              placeholder="by itself"
              defaultValue={item.group}
              maxLength={60}
              className={smallBox}
              onBlur={({ target }) => {
                if (target.value.trim() !== item.group)
                  put(
                    items.map((each) =>
                      each.id === item.id ? { ...each, group: target.value.trim() } : each,
                    ),
                  );
              }}
            />
            <span className="text-small text-muted">{item.published ? 'published' : 'not published'}</span>
            {others.length > 0 && (
              <ChoiceBox
                aria-label={`Move ${item.title} to another desk`}
                value=""
                choices={[
                  { value: '', words: 'Move to …', disabled: true },
                  ...others.map(({ slug, name }) => ({ value: slug, words: name })),
                ]}
                className={smallBox}
                onChange={(to_) =>
                  void fetcher.submit({ intent: 'move', dashboard: item.id, to: to_ }, { method: 'post' })
                }
              />
            )}
          </div>
        )}
      </Sortable>
      <p role="status" className="mt-3 text-small text-slate">
        {fetcher.data &&
          fetcher.state === 'idle' &&
          (fetcher.data.problem ?? 'Saved. Readers have it at once.')}
      </p>
    </Page>
  );
}
