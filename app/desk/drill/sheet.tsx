import ChevronLeft from 'lucide-react/icons/chevron-left';
import ChevronRight from 'lucide-react/icons/chevron-right';
import Maximize2 from 'lucide-react/icons/maximize-2';
import Minimize2 from 'lucide-react/icons/minimize-2';
import X from 'lucide-react/icons/x';
import * as Dialog from 'radix-ui/dialog';
import { useCallback, useEffect, useRef, useState } from 'react';
import { IconButton } from '../../ui/button.tsx';
import { isFocusFree, isTyping } from '../../ui/focus.ts';
import { type Drill, drillToText } from '../drill-address.ts';
import { Levels } from './levels.tsx';
import type { Neighbours, OpenedRecord, TellList } from './neighbours.ts';

/** A question, a menu or a list that stands above what is opened. */
const dialogAbove =
  '[role="dialog"][data-state="open"]:not([data-drill]), [role="menu"][data-state="open"], [role="listbox"]';

/** What is drilled into, from the right, with the page still in view and the trail back as a sentence. */
export function DrillSheet({
  drills,
  isOver,
  neighbours: { previous, next },
  beside,
  tell,
  go,
  goBeside,
  back,
  page,
}: {
  drills: readonly Drill[];
  neighbours: Neighbours;
  /** The same of what is opened by now, drawn or not. */
  beside: () => Neighbours;
  tell: TellList;
  /** Over the whole page, and not beside it. */
  isOver: boolean;
  go: (steps: readonly Drill[], isOver?: boolean) => void;
  /** To a record in place of the one that is opened. */
  goBeside: (record: OpenedRecord) => void;
  /** To the level before, of what is opened by now: keys may be quicker than it is drawn. */
  back: () => void;
  page: string;
}) {
  // Where the work goes on once this is closed: the number or record that it was opened from.
  const openedFrom = useRef(document.activeElement);
  const top = drills.at(-1);
  /** The name of the record that is open, where it is known to be another than the address has: that of one that was added just now. */
  const [named, setNamed] = useState<{ readonly key: string; readonly title: string } | null>(null);
  const nameIt = useCallback((key: string, title: string) => setNamed({ key, title }), []);
  const titleOf = (drill: Drill): string =>
    drill.kind === 'record' && drill.key === named?.key ? named.title : drill.title;
  useEffect(() => {
    const press = (event: KeyboardEvent): void => {
      if (event.key !== 'n' && event.key !== 'p') return;
      if (event.defaultPrevented || event.ctrlKey || event.metaKey || event.altKey) return;
      if (isTyping(event.target) || document.querySelector(dialogAbove)) return;
      const to = event.key === 'n' ? beside().next : beside().previous;
      if (!to) return;
      event.preventDefault();
      goBeside(to);
    };
    window.addEventListener('keydown', press);
    return () => window.removeEventListener('keydown', press);
  }, [beside, goBeside]);
  if (!top) return null;
  return (
    <Dialog.Root open modal={false} onOpenChange={(open) => !open && go([])}>
      <Dialog.Portal>
        <Dialog.Content
          data-drill
          className={`appear fixed inset-y-0 right-0 z-40 flex ${isOver ? 'w-screen' : 'w-[min(46rem,100vw)]'} flex-col [--ground:var(--sheet)] border-l border-line bg-sheet text-ink shadow-[-12px_0_32px_rgb(0_0_0/0.14)]`}
          onInteractOutside={(event) => event.preventDefault()}
          onCloseAutoFocus={(event) => {
            event.preventDefault();
            if (isFocusFree() && openedFrom.current instanceof HTMLElement) openedFrom.current.focus();
          }}
          onEscapeKeyDown={(event) => {
            event.preventDefault();
            back();
          }}
          aria-describedby={undefined}
        >
          <header className="glass flex min-h-12 items-center gap-3 px-5 py-2 [&_:focus-visible]:outline-on-glass">
            <nav
              aria-label="Trail"
              className="flex min-w-0 flex-1 flex-wrap items-center gap-x-1.5 text-small"
            >
              <button type="button" className="text-on-glass-muted hover:underline" onClick={() => go([])}>
                {page}
              </button>
              {drills.map((drill, index) => (
                <span key={drillToText(drill)} className="flex min-w-0 items-center gap-x-1.5">
                  <span aria-hidden="true">›</span>
                  {index === drills.length - 1 ? (
                    <span className="truncate font-strong" aria-current="page">
                      {titleOf(drill)}
                    </span>
                  ) : (
                    <button
                      type="button"
                      className="truncate text-on-glass-muted hover:underline"
                      onClick={() => go(drills.slice(0, index + 1))}
                    >
                      {drill.title}
                    </button>
                  )}
                </span>
              ))}
            </nav>
            {(previous || next) && (
              <span className="flex">
                <IconButton
                  name="The previous record (p)"
                  disabled={!previous}
                  onClick={() => previous && goBeside(previous)}
                  className="text-on-glass hover:text-on-glass"
                >
                  <ChevronLeft className="size-5" />
                </IconButton>
                <IconButton
                  name="The next record (n)"
                  disabled={!next}
                  onClick={() => next && goBeside(next)}
                  className="text-on-glass hover:text-on-glass"
                >
                  <ChevronRight className="size-5" />
                </IconButton>
              </span>
            )}
            <IconButton
              name={isOver ? 'Beside the page again' : 'Over the whole page'}
              onClick={() => go(drills, !isOver)}
              className="text-on-glass hover:text-on-glass max-sm:hidden"
            >
              {isOver ? <Minimize2 className="size-4" /> : <Maximize2 className="size-4" />}
            </IconButton>
            <Dialog.Close asChild>
              <IconButton name="Close" className="text-on-glass hover:text-on-glass">
                <X className="size-5" />
              </IconButton>
            </Dialog.Close>
          </header>
          <Dialog.Title className="sr-only">{titleOf(top)}</Dialog.Title>
          <Levels drills={drills} titleOf={titleOf} onNamed={nameIt} tell={tell} />
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
