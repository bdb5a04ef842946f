import * as Dialog from 'radix-ui/dialog';
import { type ReactNode, useRef } from 'react';
import { isFocusFree } from '../../ui/focus.ts';

/** What stands over the page until it is done with. The keyboard goes back to where it was opened from. */
export function OverPage({
  title,
  isWide = false,
  onClose,
  children,
}: {
  title: string;
  isWide?: boolean;
  onClose: () => void;
  children: ReactNode;
}) {
  const openedFrom = useRef(document.activeElement);
  return (
    <Dialog.Root open onOpenChange={(open) => !open && onClose()}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-50 bg-[rgb(22_34_43/0.45)]" />
        <Dialog.Content
          aria-describedby={undefined}
          className={`fixed top-1/2 left-1/2 z-50 flex max-h-[90vh] ${isWide ? 'w-[min(44rem,94vw)]' : 'w-[min(32rem,94vw)]'} -translate-x-1/2 -translate-y-1/2 flex-col gap-4 overflow-auto rounded-[6px] border border-line bg-sheet p-6 text-ink`}
          onCloseAutoFocus={(event) => {
            event.preventDefault();
            if (isFocusFree() && openedFrom.current instanceof HTMLElement) openedFrom.current.focus();
          }}
        >
          <Dialog.Title className="text-title">{title}</Dialog.Title>
          {children}
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
