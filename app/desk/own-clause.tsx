import { useState } from 'react';
import { withOwn } from '#core/dashboard/scope/change.ts';
import type { OwnGroup } from '#core/dashboard/scope/state.ts';
import { Later, later } from '../ui/later.tsx';
import { Popover } from '../ui/popover.tsx';
import { useDesk } from './desk-context.ts';

const ownGroup = later(() => import('./own-group.tsx').then((module) => module.OwnGroupForm));

/** A condition of the reader's own, by its place among them; behind the last: “… and where”, which adds one. */
export function OwnClause({ at, text }: { at: number; text?: string }) {
  const { context, setScope } = useDesk();
  const [open, setOpen] = useState(false);
  const apply = (group: OwnGroup): void => {
    setScope((scope) => withOwn(scope, at, group));
    setOpen(false);
  };
  return (
    <Popover
      label={text ? 'Change your condition' : 'Add a condition of your own'}
      wide
      open={open}
      onOpenChange={setOpen}
      trigger={
        <button type="button" className={text ? 'slot' : 'slot no-print text-body font-normal'}>
          {text ?? '… and where'}
        </button>
      }
    >
      <Later of={ownGroup} props={{ given: context.scope.own[at] ?? [], onApply: apply }} />
    </Popover>
  );
}
