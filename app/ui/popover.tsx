import { Popover as Primitive } from 'radix-ui';
import type { ReactNode } from 'react';
import { isFocusFree } from './focus.ts';

/** A control opened in place, under the words it belongs to. */
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
  return (
    <Primitive.Root {...(open === undefined ? {} : { open })} {...(onOpenChange ? { onOpenChange } : {})}>
      <Primitive.Trigger asChild>{trigger}</Primitive.Trigger>
      <Primitive.Portal>
        <Primitive.Content
          aria-label={label}
          align="start"
          // By the time that it is gone the person may be at work elsewhere; then nothing brings them back.
          onCloseAutoFocus={(event) => {
            if (!isFocusFree()) event.preventDefault();
          }}
          sideOffset={8}
          collisionPadding={12}
          className={`z-40 max-h-[min(70vh,var(--radix-popover-content-available-height))] overflow-auto rounded-[6px] border border-line bg-sheet p-4 text-body text-ink shadow-[0_8px_28px_rgb(0_0_0/0.16)] ${wide === 'double' ? 'w-[min(42rem,94vw)]' : wide ? 'w-[min(30rem,92vw)]' : 'w-[min(21rem,92vw)]'}`}
        >
          {children}
        </Primitive.Content>
      </Primitive.Portal>
    </Primitive.Root>
  );
}
