import Undo2 from 'lucide-react/icons/undo-2';
import X from 'lucide-react/icons/x';
import { Button, IconButton } from '../../ui/button.tsx';
import { FootLine } from '../../ui/foot-line.tsx';
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
    <FootLine name="What was done">
      {notice && (
        <>
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
        </>
      )}
    </FootLine>
  );
}
