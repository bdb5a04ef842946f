import * as Primitive from 'radix-ui/popover';
import type { ReactNode, RefObject } from 'react';
import { isFocusFree } from './focus.ts';

const widths = {
  usual: 'w-[min(21rem,92vw)]',
  wide: 'w-[min(30rem,92vw)]',
  double: 'w-[min(42rem,94vw)]',
};

interface PopoverSheetProps {
  readonly id: string;
  readonly label: string;
  /** What it stands under, which opened it. */
  readonly anchor: RefObject<HTMLElement | null>;
  readonly width: keyof typeof widths;
  readonly onClose: () => void;
  readonly children: ReactNode;
}

/** What a popover shows while it is open. */
export function PopoverSheet({ id, label, anchor, width, onClose, children }: PopoverSheetProps) {
  return (
    <Primitive.Root
      open
      onOpenChange={(open) => {
        if (!open) onClose();
      }}
    >
      <Primitive.Anchor virtualRef={anchor as RefObject<HTMLElement>} />
      <Primitive.Portal>
        <Primitive.Content
          id={id}
          aria-label={label}
          align="start"
          // A click on what opened it closes it by itself.
          onInteractOutside={(event) => {
            if (anchor.current?.contains(event.target as Node)) event.preventDefault();
          }}
          // By the time that it is gone the person may be at work elsewhere; then nothing brings them back.
          onCloseAutoFocus={(event) => {
            event.preventDefault();
            if (isFocusFree()) anchor.current?.focus();
          }}
          sideOffset={8}
          collisionPadding={12}
          className={`z-40 max-h-[min(70vh,var(--radix-popover-content-available-height))] overflow-auto rounded-[6px] border border-line bg-sheet p-4 text-body text-ink shadow-[0_8px_28px_rgb(0_0_0/0.16)] ${widths[width]}`}
        >
          {children}
        </Primitive.Content>
      </Primitive.Portal>
    </Primitive.Root>
  );
}
