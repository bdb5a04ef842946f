import { randomUUID } from 'node:crypto';
import type { SubmissionResult } from '@conform-to/react';
import { useForm } from '@conform-to/react';
import { Form, redirect, useNavigation } from 'react-router';
import { z } from 'zod';
import { readForm } from '#server/forms.ts';
import { guardedAction, guardedLoader, type Signed, to } from '#server/guard.ts';
import { may } from '#server/permission.ts';
import { note } from '#server/store/audit.ts';
import { addDashboard, addDesk, freeSlug, listDesks } from '#server/store/dashboards.ts';
import { Button } from '../ui/button.tsx';
import { TextField } from '../ui/field.tsx';
import { Page } from '../ui/page.tsx';
import type { Route } from './+types/dashboard-new';

const Asked = z.object({ id: z.uuid(), title: z.string().trim().min(1, 'a title is needed').max(500) });

/** The id is made here, so that a form sent twice starts one dashboard. */
export const loader = guardedLoader<Route.LoaderArgs, { id: string }>(to('build'), () => ({
  id: randomUUID(),
}));

export const action = guardedAction(
  to('build'),
  async ({ request, user }: Signed<Route.ActionArgs>): Promise<{ result: SubmissionResult } | Response> => {
    const submission = readForm(await request.formData(), Asked);
    if (submission.status !== 'success') return { result: submission.reply() };
    const { id, title } = submission.value;
    const desks = await listDesks();
    // Where there is no desk at all, only administrators come here.
    const desk =
      desks.find((each) => may(user, 'build', { desk: each.id })) ??
      (await addDesk({ slug: 'desk', name: 'Our desk', zone: 'UTC' }));
    await addDashboard({
      id,
      deskId: desk.id,
      slug: await freeSlug(desk.id, title),
      draft: { version: 2, title, scope: [], panes: [] },
      by: user.id,
    });
    await note(user.id, 'started a dashboard', title);
    return redirect(`/workroom/dashboards/${id}`);
  },
);

export default function DashboardNew({ loaderData, actionData }: Route.ComponentProps) {
  const busy = useNavigation().state !== 'idle';
  const [form, fields] = useForm<{ title: string }>({
    lastResult: actionData && 'result' in actionData ? actionData.result : null,
  });
  return (
    <Page title="Start a dashboard" lead="Only those who build see it until you publish it.">
      <Form
        method="post"
        id={form.id}
        onSubmit={(event) => busy && event.preventDefault()}
        className="flex max-w-md flex-col gap-4"
      >
        <input type="hidden" name="id" value={loaderData.id} />
        <TextField
          label="Title"
          name="title"
          defaultValue={fields.title.initialValue}
          problem={fields.title.errors?.[0]}
          autoFocus
          maxLength={500}
        />
        <Button type="submit" look="main" className="self-start" disabled={busy}>
          Start
        </Button>
      </Form>
    </Page>
  );
}
