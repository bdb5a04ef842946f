import Printer from 'lucide-react/icons/printer';
import { useState } from 'react';
import { IconButton } from '../ui/button.tsx';
import { Later, later } from '../ui/later.tsx';
import { Popover } from '../ui/popover.tsx';

const paperChoices = later(() => import('./paper-choices.tsx').then((module) => module.PaperChoices));

/** The dashboard on paper: as a PDF that the server draws, or by the browser's own print. */
export function PaperMenu() {
  const [open, setOpen] = useState(false);
  return (
    <Popover
      label="On paper"
      open={open}
      onOpenChange={setOpen}
      trigger={
        <IconButton name="On paper" className="no-print">
          <Printer className="size-4" />
        </IconButton>
      }
    >
      <Later of={paperChoices} props={{ onDone: () => setOpen(false) }} />
    </Popover>
  );
}
