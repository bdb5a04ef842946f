import Download from 'lucide-react/icons/download';
import { IconButton } from '../ui/button.tsx';
import { ExportLinks } from '../ui/export-links.tsx';
import { Popover } from '../ui/popover.tsx';

/** Offers the records of a list as files. */
export function DownloadTool({
  name,
  what,
  hrefOf,
  asItLooks,
}: {
  /** Of the button, for those who do not see it. */
  name: string;
  what: string;
  hrefOf: (format: string) => string;
  asItLooks?: string;
}) {
  return (
    <Popover
      label="Download"
      trigger={
        <IconButton name={name}>
          <Download className="size-4" />
        </IconButton>
      }
    >
      <ExportLinks what={what} hrefOf={hrefOf} asItLooks={asItLooks} />
    </Popover>
  );
}
