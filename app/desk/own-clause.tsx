import { useState } from 'react';
import { ownWords } from '#core/dashboard/flow/words/scope.ts';
import { withOwn } from '#core/dashboard/scope/change.ts';
import type { OwnTest } from '#core/dashboard/scope/state.ts';
import { Later, later } from '../ui/later.tsx';
import { Popover } from '../ui/popover.tsx';
import { useDesk } from './desk-context.ts';

const ownTestForm = later(() => import('./own-test.tsx').then((module) => module.OwnTestForm));

/** "… and where": the reader's own group, which holds when any of its tests does. Several groups must all hold. */
export function OwnClause() {
  const { context, setScope } = useDesk();
  const [open, setOpen] = useState(false);
  const [group, setGroup] = useState<readonly OwnTest[]>([]);
  const apply = (tests: readonly OwnTest[]): void => {
    setScope((scope) => withOwn(scope, [...scope.own, tests]));
    setGroup([]);
    setOpen(false);
  };
  return (
    <>
      {' '}
      <Popover
        label="Add a condition of your own"
        wide
        open={open}
        onOpenChange={setOpen}
        trigger={
          <button type="button" className="slot no-print text-body font-normal">
            … and where
          </button>
        }
      >
        {group.length > 0 && <p className="mb-3 text-slate">Where {ownWords(group, context)} or</p>}
        <Later
          of={ownTestForm}
          props={{
            canApply: group.length > 0,
            onAlso: (test) => setGroup([...group, test]),
            onApply: (test) => apply(test ? [...group, test] : group),
          }}
        />
      </Popover>
    </>
  );
}
