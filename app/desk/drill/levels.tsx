import { useLayoutEffect, useRef, useState } from 'react';
import { type Drill, drillToText } from '../drill-address.ts';
import { BehindView } from './behind.tsx';
import { RecordView } from './record.tsx';

/** What a level in sight is known by. */
export const levelMark = 'data-level';

/**
 * What is drilled into, level by level, the last in sight. Those that one came through stay as they were left: where a list was, what was
 * searched and marked in it, and what had the keyboard. A level that a link leads past is made once somebody goes back to it.
 */
export function Levels({
  drills,
  titleOf,
  onNamed,
}: {
  drills: readonly Drill[];
  titleOf: (drill: Drill) => string;
  onNamed: (key: string, title: string) => void;
}) {
  const names = drills.map((drill, at) => `${at} ${drillToText(drill)}`);
  const top = names.at(-1) ?? '';
  const [opened, setOpened] = useState<readonly string[]>([top]);
  const open = names.filter((name) => name === top || opened.includes(name));
  if (open.join('\n') !== opened.join('\n')) setOpened(open);
  const places = useRef(new Map<string, HTMLElement>());
  const left = useRef(new Map<string, HTMLElement>());
  const last = useRef(top);
  useLayoutEffect(() => {
    if (last.current === top) return;
    const active = document.activeElement;
    if (active instanceof HTMLElement && places.current.get(last.current)?.contains(active))
      left.current.set(last.current, active);
    last.current = top;
    const before = left.current.get(top);
    (before?.isConnected ? before : places.current.get(top))?.focus();
  }, [top]);
  return drills.map((drill, at) => {
    const name = names[at] ?? '';
    return (
      open.includes(name) && (
        <section
          key={name}
          ref={(place) => {
            if (!place) return;
            places.current.set(name, place);
            return () => void places.current.delete(name);
          }}
          hidden={name !== top}
          {...(name === top ? { [levelMark]: '' } : {})}
          tabIndex={-1}
          aria-label={titleOf(drill)}
          className="min-h-0 flex-1 overflow-auto p-5 outline-none"
        >
          {drill.kind === 'behind' ? (
            <BehindView drill={drill} />
          ) : (
            <RecordView drill={drill} onNamed={onNamed} />
          )}
        </section>
      )
    );
  });
}
