import X from 'lucide-react/icons/x';
import { useState } from 'react';
import { ownTestWords } from '#core/dashboard/flow/words/scope.ts';
import { withoutTest, withTest } from '#core/dashboard/scope/change.ts';
import type { OwnGroup, OwnTest } from '#core/dashboard/scope/state.ts';
import { Button, IconButton } from '../ui/button.tsx';
import { useDesk } from './desk-context.ts';
import { OwnTestForm } from './own-test.tsx';

type Joined = 'and' | 'or';
const ways: readonly Joined[] = ['and', 'or'];

/** The tests of a group, each of which can go, and the next one. */
export function OwnGroupForm({ given, onApply }: { given: OwnGroup; onApply: (group: OwnGroup) => void }) {
  const [group, setGroup] = useState(given);
  const [joined, setJoined] = useState<Joined>('and');
  const isBegun = group.length > 0;
  const goOn = (test: OwnTest, next: Joined): void => {
    setGroup(withTest(group, joined, test));
    setJoined(next);
  };
  return (
    <div className="flex flex-col gap-3">
      {isBegun && (
        <>
          <Tests group={group} onRemove={(test) => setGroup(withoutTest(group, test))} />
          <Ways now={joined} onChoose={setJoined} />
        </>
      )}
      <OwnTestForm onApply={(test) => onApply(withTest(group, joined, test))} onGoOn={goOn}>
        {(isBegun || given.length > 0) && (
          <Button look="quiet" onClick={() => onApply(group)}>
            Apply without this one
          </Button>
        )}
      </OwnTestForm>
    </div>
  );
}

/** How the next test is joined to those before. */
const Ways = ({ now, onChoose }: { now: Joined; onChoose: (joined: Joined) => void }) => (
  <fieldset className="flex gap-4 border-t border-hair pt-3">
    <legend className="sr-only">Joined by</legend>
    {ways.map((way) => (
      <label key={way} className="flex items-center gap-2">
        <input
          type="radio"
          name="joined"
          checked={way === now}
          onChange={() => onChoose(way)}
          className="size-4 accent-[var(--accent)]"
        />
        {way}
      </label>
    ))}
  </fieldset>
);

function Tests({ group, onRemove }: { group: OwnGroup; onRemove: (test: OwnTest) => void }) {
  const { context } = useDesk();
  return (
    <ul className="flex flex-col">
      {group.flatMap((part, place) =>
        part.map((test, at) => {
          const words = ownTestWords(test, context);
          return (
            // biome-ignore lint/suspicious/noArrayIndexKey: two tests may be alike
            <li key={`${place} ${at}`} className={`flex items-baseline gap-2 ${at > 0 ? 'pl-6' : ''}`}>
              <span className="min-w-0 flex-1 text-ink">
                <span className="text-muted">{at > 0 ? 'and' : place > 0 ? 'or' : 'where'}</span> {words}
              </span>
              <IconButton name={`Remove “${words}”`} onClick={() => onRemove(test)}>
                <X className="size-4" />
              </IconButton>
            </li>
          );
        }),
      )}
    </ul>
  );
}
