import { Dialog } from 'radix-ui';
import { useRef } from 'react';
import type { ChangeAnswer } from '#core/change/answer.ts';
import { isFocusFree } from '../../ui/focus.ts';
import { ActForm, useAct } from './act-form.tsx';
import type { AskedAct, PostChange } from './use-acting.ts';

/** An action that somebody wants to do, over the page. */
export function ActSheet({
  intent,
  zone,
  post,
  onDone,
  onClose,
}: {
  intent: AskedAct;
  zone: string;
  post: PostChange;
  onDone: (answer: ChangeAnswer) => void;
  onClose: () => void;
}) {
  const openedFrom = useRef(document.activeElement);
  const act = useAct(intent, post, onDone);
  return (
    <Dialog.Root open onOpenChange={(open) => !open && onClose()}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-50 bg-[rgb(22_34_43/0.45)]" />
        <Dialog.Content
          aria-describedby={undefined}
          className="fixed top-1/2 left-1/2 z-50 flex max-h-[90vh] w-[min(32rem,94vw)] -translate-x-1/2 -translate-y-1/2 flex-col gap-4 overflow-auto rounded-[6px] border border-line bg-sheet p-6 text-ink"
          onCloseAutoFocus={(event) => {
            event.preventDefault();
            if (isFocusFree() && openedFrom.current instanceof HTMLElement) openedFrom.current.focus();
          }}
        >
          <Dialog.Title className="text-title">{act.look?.label ?? 'One moment'}</Dialog.Title>
          <ActForm act={act} zone={zone} onClose={onClose} />
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
