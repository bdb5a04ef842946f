import { Undo2, X } from 'lucide-react';
import { Button, IconButton } from '../../ui/button.tsx';
import { StateMark } from '../../ui/state-mark.tsx';
import type { Notice } from './use-acting.ts';

/** What was done, at the foot of the page, with the way to take it back. */
export function NoticeLine({
  notice,
  onUndo,
  onClose,
}: {
  notice: Notice | null;
  onUndo: (batch: string) => void;
  onClose: () => void;
}) {
  return (
    <div
      role="status"
      aria-label="What was done"
      className="no-print pointer-events-none fixed inset-x-0 bottom-4 z-50 flex justify-center px-4"
    >
      {notice && (
        <div className="appear pointer-events-auto flex max-w-2xl items-center gap-3 rounded-[6px] border border-line bg-sheet py-2 pr-2 pl-4 text-ink shadow-[0_8px_28px_rgb(0_0_0/0.16)]">
          <StateMark tone={notice.isBad ? 'broken' : 'settled'} word="" />
          <span className="min-w-0">{notice.words}</span>
          {notice.undo !== null && (
            <Button look="quiet" onClick={() => notice.undo !== null && onUndo(notice.undo)}>
              <Undo2 className="size-3.5" aria-hidden="true" /> Undo
            </Button>
          )}
          <IconButton name="Close" onClick={onClose}>
            <X className="size-4" />
          </IconButton>
        </div>
      )}
    </div>
  );
}
