import Bookmark from 'lucide-react/icons/bookmark';
import { useState } from 'react';
import { IconButton } from '../ui/button.tsx';
import { Later, later } from '../ui/later.tsx';
import { Popover } from '../ui/popover.tsx';

const scopeMenu = later(() => import('./scope-menu.tsx').then((module) => module.ScopeMenu));

/** What the page shows, under names: those of the reader, and those that are offered to everybody. */
export function SavedScopes() {
  const [open, setOpen] = useState(false);
  return (
    <Popover
      label="Saved scopes"
      open={open}
      onOpenChange={setOpen}
      trigger={
        <IconButton name="Saved scopes" className="no-print">
          <Bookmark className="size-4" />
        </IconButton>
      }
    >
      <Later of={scopeMenu} props={{ onChosen: () => setOpen(false) }} />
    </Popover>
  );
}
