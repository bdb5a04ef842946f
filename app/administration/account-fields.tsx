import Plus from 'lucide-react/icons/plus';
import X from 'lucide-react/icons/x';
import { useState } from 'react';
import type { Account } from '#server/store/accounts.ts';
import type { Desk } from '#server/store/desks.ts';
import type { Group } from '#server/store/groups.ts';
import { Button, IconButton } from '../ui/button.tsx';
import { ChoiceBox } from '../ui/choice.tsx';
import { CheckField, smallBox } from '../ui/field.tsx';

const roleChoices = [
  { value: 'none', words: 'No role' },
  { value: 'reader', words: 'Reader: looks' },
  { value: 'supervisor', words: 'Supervisor: looks and changes records' },
  { value: 'analyst', words: 'Analyst: looks, changes records and builds' },
];

/** A role on each desk. */
export function RoleFields({
  desks,
  roles,
}: {
  desks: readonly Pick<Desk, 'id' | 'name'>[];
  roles: Readonly<Record<string, string>>;
}) {
  return (
    <fieldset>
      <legend className="mb-1 text-small font-strong text-slate">Roles on desks</legend>
      <ul className="border-t border-hair">
        {desks.map(({ id, name }) => (
          <li
            key={id}
            className="grid grid-cols-[minmax(0,1fr)_minmax(0,1.4fr)] items-center gap-3 border-b border-hair py-1.5"
          >
            <span className="truncate">{name}</span>
            <ChoiceBox
              aria-label={`Role on ${name}`}
              name={`role:${id}`}
              defaultValue={roles[id] ?? 'none'}
              choices={roleChoices}
              className={`${smallBox} w-full`}
            />
          </li>
        ))}
      </ul>
      {desks.length === 0 && <p className="text-muted">There is no desk yet.</p>}
    </fieldset>
  );
}

/** What administrators decide about somebody, except their name and address. */
export function AccountFields({
  desks,
  groups,
  account,
}: {
  desks: readonly Pick<Desk, 'id' | 'name'>[];
  groups: readonly Pick<Group, 'id' | 'name'>[];
  account?: Pick<Account, 'isAdministrator' | 'roles' | 'groups' | 'attributes'>;
}) {
  return (
    <>
      <RoleFields desks={desks} roles={account?.roles ?? {}} />
      {groups.length > 0 && (
        <fieldset>
          <legend className="mb-1 text-small font-strong text-slate">Groups</legend>
          {groups.map(({ id, name }) => (
            <CheckField
              key={id}
              name="group"
              value={id}
              label={name}
              defaultChecked={account?.groups.includes(id)}
            />
          ))}
        </fieldset>
      )}
      <AttributeFields attributes={account?.attributes ?? {}} />
      <CheckField
        name="administrator"
        value="yes"
        defaultChecked={account?.isAdministrator}
        label="Administrator: may do everything, here too"
      />
    </>
  );
}

/** What is known of somebody, such as their terminals; conditions on who is asking compare records with it. */
function AttributeFields({ attributes }: { attributes: Account['attributes'] }) {
  const [rows, setRows] = useState(() =>
    Object.entries(attributes).map(([name, values]) => ({
      key: name,
      name,
      values: values.join(', '),
    })),
  );
  const [count, setCount] = useState(0);
  return (
    <fieldset className="flex flex-col items-start gap-2">
      <legend className="mb-1 text-small font-strong text-slate">Which records are theirs</legend>
      <p className="text-small text-muted">
        Data sets can be limited to the records of whoever looks: “Terminal” here, with Norrick and Hesta,
        limits this person to those of the two.
      </p>
      {rows.map(({ key, name, values }) => (
        <div key={key} className="grid w-full grid-cols-[minmax(0,1fr)_minmax(0,2fr)_auto] gap-2">
          <input
            name="attribute"
            aria-label="What"
            placeholder="Terminal"
            defaultValue={name}
            maxLength={60}
            className={smallBox}
          />
          <input
            name="values"
            aria-label="Values, with commas between"
            placeholder="Norrick, Hesta"
            defaultValue={values}
            maxLength={20_000}
            className={smallBox}
          />
          <IconButton
            name={`Remove ${name || 'this'}`}
            onClick={() => setRows(rows.filter((row) => row.key !== key))}
          >
            <X className="size-4" />
          </IconButton>
        </div>
      ))}
      <Button
        look="quiet"
        onClick={() => {
          setRows([...rows, { key: `new-${count}`, name: '', values: '' }]);
          setCount(count + 1);
        }}
      >
        <Plus className="size-4" aria-hidden="true" /> Add one
      </Button>
    </fieldset>
  );
}
