import * as Slot from 'radix-ui/slot';
import { type ReactNode, useId, useRef, useState } from 'react';
import { LaterOver, later } from './later.tsx';

const sheet = later(() => import('./popover-sheet.tsx').then((module) => module.PopoverSheet));

/** A control opened in place, under the words it belongs to. Those are on the page from its start; what opens comes later. */
export function Popover({
  label,
  trigger,
  children,
  open,
  onOpenChange,
  wide = false,
}: {
  label: string;
  trigger: ReactNode;
  children: ReactNode;
  open?: boolean;
  onOpenChange?: (open: boolean) => void;
  /** `double`: for two columns beside each other. */
  wide?: boolean | 'double';
}) {
  const [own, setOwn] = useState(false);
  const anchor = useRef<HTMLElement>(null);
  const id = useId();
  const isOpen = open ?? own;
  const turn = (next: boolean): void => {
    setOwn(next);
    onOpenChange?.(next);
  };
  return (
    <>
      <Slot.Root
        ref={anchor}
        aria-haspopup="dialog"
        aria-expanded={isOpen}
        {...(isOpen ? { 'aria-controls': id } : {})}
        data-state={isOpen ? 'open' : 'closed'}
        onClick={() => turn(!isOpen)}
      >
        {trigger}
      </Slot.Root>
      {isOpen && (
        <LaterOver
          of={sheet}
          props={{
            id,
            label,
            anchor,
            width: wide === 'double' ? 'double' : wide ? 'wide' : 'usual',
            onClose: () => turn(false),
            children,
          }}
        />
      )}
    </>
  );
}
