import ClipboardPaste from 'lucide-react/icons/clipboard-paste';
import Columns3 from 'lucide-react/icons/columns-3';
import type { ShownField } from '#core/dashboard/pane/shown.ts';
import { Button, IconButton } from '../../ui/button.tsx';
import { ColumnList } from '../../ui/column-list.tsx';
import { Popover } from '../../ui/popover.tsx';

/** Chooses which columns are shown, and their order. */
export function ColumnsTool({
  offered,
  shown,
  onChange,
  onReset,
}: {
  offered: readonly Pick<ShownField, 'name' | 'label'>[];
  shown: readonly string[];
  onChange: (names: string[]) => void;
  /** Back to those that the list has by itself; null where it shows them. */
  onReset: (() => void) | null;
}) {
  return (
    <Popover
      label="Columns"
      trigger={
        <IconButton name="Choose columns">
          <Columns3 className="size-4" />
        </IconButton>
      }
    >
      <h3 className="mb-2 text-small text-slate">Columns shown</h3>
      <ColumnList
        offered={offered}
        chosen={[...shown]}
        onChange={(names) => names.length > 0 && onChange(names)}
      />
      {onReset && (
        <Button className="mt-3" onClick={onReset}>
          Reset
        </Button>
      )}
    </Popover>
  );
}

/** Opens what takes rows of a spreadsheet. */
export function PasteTool({ onPaste }: { onPaste: () => void }) {
  return (
    <IconButton name="Change from a spreadsheet" onClick={onPaste}>
      <ClipboardPaste className="size-4" />
    </IconButton>
  );
}
