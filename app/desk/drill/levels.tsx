import { type ReactNode, useLayoutEffect, useRef, useState } from 'react';
import { type Drill, drillToText } from '../drill-address.ts';
import { BehindView } from './behind.tsx';
import { ListContext, type TellList } from './neighbours.ts';
import { RecordView } from './record.tsx';

/** What is drilled into, level by level, the last in sight. */
export function Levels({
  drills,
  titleOf,
  onNamed,
  tell,
}: {
  drills: readonly Drill[];
  titleOf: (drill: Drill) => string;
  onNamed: (key: string, title: string) => void;
  tell: TellList;
}) {
  const last = drills.length - 1;
  return drills.map((drill, at) => (
    <Level
      // biome-ignore lint/suspicious/noArrayIndexKey: the same may be drilled into twice, which are two levels
      key={`${at} ${drillToText(drill)}`}
      label={titleOf(drill)}
      isInSight={at === last}
      // It knows what stands beside the record.
      isAsked={at === last - 1 && drills[last]?.kind === 'record'}
    >
      <ListContext value={(pane, records) => tell(drills.slice(0, at + 1), pane, records)}>
        {drill.kind === 'behind' ? (
          <BehindView drill={drill} />
        ) : (
          <RecordView drill={drill} onNamed={onNamed} />
        )}
      </ListContext>
    </Level>
  ));
}

/**
 * A level has the keyboard when it comes into sight. One that another has come over stays as it was left: where a list was, what was
 * searched and marked in it, and what had the keyboard. A level that a link leads past is made once somebody asks it, or goes back to it.
 */
function Level({
  label,
  isInSight,
  isAsked,
  children,
}: {
  label: string;
  isInSight: boolean;
  isAsked: boolean;
  children: ReactNode;
}) {
  const place = useRef<HTMLElement>(null);
  const left = useRef<HTMLElement>(null);
  const isWanted = isInSight || isAsked;
  const [isMade, setMade] = useState(isWanted);
  if (isWanted && !isMade) setMade(true);
  useLayoutEffect(() => {
    if (isInSight) (left.current?.isConnected ? left.current : place.current)?.focus();
    // Before the next level takes it.
    else left.current = place.current?.querySelector<HTMLElement>(':focus') ?? null;
  }, [isInSight]);
  return (
    <section
      ref={place}
      hidden={!isInSight}
      tabIndex={-1}
      aria-label={label}
      className="min-h-0 flex-1 overflow-auto p-5 outline-none"
    >
      {isMade && children}
    </section>
  );
}
