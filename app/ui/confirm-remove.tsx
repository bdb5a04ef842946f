import { type ReactNode, useState } from 'react';
import { Button } from './button.tsx';
import { Popover } from './popover.tsx';

/** Asks before something is removed, and says what goes with it. */
export function ConfirmRemove({
  what,
  trigger,
  goesWith = [],
  canUndo = false,
  ending = canUndo ? 'Undo brings it back.' : 'This cannot be undone.',
  onRemove,
}: {
  /** As in "Remove “Late sailings”?" */
  what: string;
  trigger: ReactNode;
  /** What else changes by it, a sentence each. */
  goesWith?: readonly string[];
  canUndo?: boolean;
  /** How it can be had back, where that is by neither. */
  ending?: string;
  onRemove: () => void;
}) {
  const [open, setOpen] = useState(false);
  return (
    <Popover label={`Remove ${what}`} open={open} onOpenChange={setOpen} trigger={trigger}>
      <div className="flex flex-col gap-3">
        <p className="font-strong">Remove {what}?</p>
        {goesWith.map((each) => (
          <p key={each} className="text-small text-slate">
            {each}
          </p>
        ))}
        <p className="text-small text-muted">{ending}</p>
        <div className="flex gap-2">
          <Button
            look="main"
            onClick={() => {
              setOpen(false);
              onRemove();
            }}
          >
            Remove
          </Button>
          <Button look="quiet" onClick={() => setOpen(false)}>
            Cancel
          </Button>
        </div>
      </div>
    </Popover>
  );
}
