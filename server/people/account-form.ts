import { z } from 'zod';
import type { AccountChange } from '../store/accounts.ts';
import { deskRoleNames } from '../store/tables/desks.ts';

/* What administrators decide about somebody, as a form sends it. */

const AccountFields = z.object({
  name: z.string().trim().min(1, 'A name is needed.').max(200),
  isAdministrator: z.boolean(),
  roles: z.record(z.uuid(), z.enum(deskRoleNames)),
  groups: z.array(z.uuid()).max(500),
  attributes: z.record(z.string().trim().min(1).max(60), z.array(z.string().trim().min(1).max(200)).max(500)),
});

export const rolePrefix = 'role:';

/** Roles by desk, from controls that are named after the desk's id. */
export const rolesOf = (form: FormData): Record<string, string> =>
  Object.fromEntries(
    [...form].flatMap(([name, value]): [string, string][] =>
      name.startsWith(rolePrefix) && typeof value === 'string' && value !== 'none'
        ? [[name.slice(rolePrefix.length), value]]
        : [],
    ),
  );

/** Values with commas between, by the name beside them; a name without values is left out. */
function attributesOf(form: FormData): Record<string, string[]> {
  const names = form.getAll('attribute').map((each) => String(each).trim());
  const values = form.getAll('values').map((each) =>
    String(each)
      .split(',')
      .flatMap((part) => part.trim() || []),
  );
  return Object.fromEntries(
    names.flatMap((name, at): [string, string[]][] =>
      name !== '' && values[at]?.length ? [[name, values[at]]] : [],
    ),
  );
}

/** Reads what an account's form sends. Throws nothing: what is wrong is said. */
export function readAccount(
  form: FormData,
): { ok: true; value: AccountChange } | { ok: false; wrong: string } {
  const read = AccountFields.safeParse({
    name: form.get('name'),
    isAdministrator: form.get('administrator') === 'yes',
    roles: rolesOf(form),
    groups: form.getAll('group').map(String),
    attributes: attributesOf(form),
  });
  return read.success
    ? { ok: true, value: read.data }
    : { ok: false, wrong: read.error.issues[0]?.message ?? 'This cannot be read.' };
}
