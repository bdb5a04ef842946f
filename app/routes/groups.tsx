import { useState } from 'react';
import { data, useFetcher } from 'react-router';
import { z } from 'zod';
import { counted } from '#core/value/format/counted.ts';
import { guardedAction, guardedLoader, to } from '#server/guard.ts';
import { rolesOf } from '#server/people/account-form.ts';
import { providerName } from '#server/people/provider.ts';
import { note } from '#server/store/audit.ts';
import { type Desk, listDesks } from '#server/store/desks.ts';
import { type Group, listGroups, putGroup, removeGroup } from '#server/store/groups.ts';
import { deskRoleNames } from '#server/store/tables/desks.ts';
import { RoleFields } from '../administration/account-fields.tsx';
import { Button } from '../ui/button.tsx';
import { ConfirmRemove } from '../ui/confirm-remove.tsx';
import { TextField } from '../ui/field.tsx';
import { Page } from '../ui/page.tsx';
import type { Route } from './+types/groups';

interface Loaded {
  groups: Group[];
  desks: Desk[];
  /** What people call where they sign in instead of here; null where they do not. */
  provider: string | null;
}

export const loader = guardedLoader<Route.LoaderArgs, Promise<Loaded>>(
  to('administer', 'the installation'),
  async () => {
    const [groups, desks] = await Promise.all([listGroups(), listDesks()]);
    return { groups, desks, provider: providerName() };
  },
);

const Sent = z.object({
  id: z.uuid().nullable(),
  name: z.string().trim().min(1, 'A name is needed.').max(200),
  providerName: z
    .string()
    .trim()
    .max(200)
    .nullable()
    .transform((text) => text || null),
  roles: z.record(z.uuid(), z.enum(deskRoleNames)),
});

interface Answer {
  readonly problem?: string;
  readonly done?: true;
}

export const action = guardedAction(
  to('administer', 'the installation'),
  async ({ request, user }: Route.ActionArgs & { user: { id: string } }) => {
    const form = await request.formData();
    const id = form.get('id');
    const read = Sent.safeParse({
      id: id === '' ? null : id,
      name: form.get('name'),
      providerName: form.get('providerName'),
      roles: rolesOf(form),
    });
    const refused = (problem: string) => data<Answer>({ problem }, { status: 400 });
    if (!read.success) return refused(read.error.issues[0]?.message ?? 'This cannot be read.');
    const { name } = read.data;
    if (form.get('intent') === 'remove') {
      if (read.data.id !== null) await removeGroup(read.data.id);
      await note(user.id, 'removed a group', name);
      return data<Answer>({ done: true });
    }
    if (!(await putGroup(read.data.id, read.data)))
      return refused('Another group has this name, or is called that where people sign in.');
    await note(user.id, read.data.id === null ? 'added a group' : 'changed a group', name);
    return data<Answer>({ done: true });
  },
);

export default function Groups({ loaderData: { groups, desks, provider } }: Route.ComponentProps) {
  return (
    <Page
      title="Groups"
      lead="Whoever is in a group has its roles beside their own; the highest counts. A person’s page says which groups they are in."
    >
      <div className="flex flex-col gap-4">
        {groups.map((group) => (
          <GroupForm key={group.id} group={group} desks={desks} provider={provider} />
        ))}
        {groups.length === 0 && <p className="text-muted">There is no group yet.</p>}
        <GroupForm desks={desks} provider={provider} />
      </div>
    </Page>
  );
}

/** A group in a line, which opens to be changed. */
function GroupForm({
  group,
  desks,
  provider,
}: {
  group?: Group;
  desks: readonly Desk[];
  provider: string | null;
}) {
  const fetcher = useFetcher<Answer>();
  const [open, setOpen] = useState(false);
  const [seen, setSeen] = useState<Answer | undefined>(undefined);
  // What was sent is in the list: the form closes.
  if (fetcher.data !== seen && fetcher.state === 'idle') {
    setSeen(fetcher.data);
    if (fetcher.data?.done) setOpen(false);
  }
  const roles = group
    ? desks.flatMap(({ id, name }) => (group.roles[id] ? [`${group.roles[id]} on ${name}`] : []))
    : [];
  if (!open)
    return group ? (
      <div className="flex items-baseline justify-between gap-4 border-b border-hair pb-2">
        <span className="min-w-0">
          <b>{group.name}</b>
          <span className="ml-3 text-slate">{roles.join(', ') || 'no role yet'}</span>
        </span>
        <span className="flex shrink-0 items-baseline gap-3">
          <span className="text-small text-muted">{counted(group.members, 'person', 'people')}</span>
          <Button look="quiet" onClick={() => setOpen(true)} aria-label={`Change ${group.name}`}>
            Change
          </Button>
        </span>
      </div>
    ) : (
      <Button className="self-start" onClick={() => setOpen(true)}>
        Add a group
      </Button>
    );
  return (
    <fetcher.Form method="post" className="flex max-w-xl flex-col gap-4 border-l-3 border-accent pl-4">
      <input type="hidden" name="id" value={group?.id ?? ''} />
      <TextField
        label="Name of the group"
        name="name"
        required
        maxLength={200}
        defaultValue={group?.name}
        problem={fetcher.data?.problem}
        autoFocus
      />
      {(provider !== null || group?.providerName) && (
        <TextField
          label={`What ${provider ?? 'the sign-in provider'} calls it`}
          hint="Whoever signs in there is then in it as long as they are in that one. Blank: a person’s page says who is in it."
          name="providerName"
          maxLength={200}
          defaultValue={group?.providerName ?? ''}
        />
      )}
      <RoleFields desks={desks} roles={group?.roles ?? {}} />
      <div className="flex gap-2">
        <Button type="submit" look="main" disabled={fetcher.state === 'submitting'}>
          {group ? 'Save' : 'Add'}
        </Button>
        <Button look="quiet" onClick={() => setOpen(false)}>
          Cancel
        </Button>
        {group && (
          <ConfirmRemove
            what={`the group ${group.name}`}
            goesWith={['Its people stay, without the roles that it gave them.']}
            trigger={<Button look="quiet">Remove</Button>}
            onRemove={() =>
              void fetcher.submit({ intent: 'remove', id: group.id, name: group.name }, { method: 'post' })
            }
          />
        )}
      </div>
    </fetcher.Form>
  );
}
