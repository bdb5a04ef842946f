import { Printer } from 'lucide-react';
import { useState } from 'react';
import { Link, useLocation } from 'react-router';
import { mostOnPaper } from '#core/dashboard/whole-lists.ts';
import { formatNumber } from '#core/value/format/format.ts';
import { Button, IconButton } from '../ui/button.tsx';
import { Popover } from '../ui/popover.tsx';
import { SelectField } from '../ui/select-field.tsx';
import { useDesk } from './desk-context.ts';

const papers = [
  { value: 'a4', words: 'A4' },
  { value: 'letter', words: 'US Letter' },
];
const turns = [
  { value: 'side', words: 'on its side' },
  { value: 'upright', words: 'upright' },
];

const listLengths = [
  { value: 'page', words: 'the records of their page' },
  { value: 'all', words: `all records, up to ${formatNumber(String(mostOnPaper))}` },
];

/** The dashboard on paper: as a PDF that the server draws, or by the browser's own print. */
export function PaperMenu() {
  const { view } = useDesk();
  const { search } = useLocation();
  const [open, setOpen] = useState(false);
  const [paper, setPaper] = useState('a4');
  const [turn, setTurn] = useState('side');
  const [lists, setLists] = useState('page');
  const query = `_paper=${paper}&_turn=${turn}&_lists=${lists}`;
  const link = 'block min-h-8 border-b border-hair py-1.5 text-accent hover:bg-wash';
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
      <div className="flex flex-col gap-3">
        <div className="grid grid-cols-2 gap-3">
          <SelectField label="Paper" value={paper} onChange={setPaper} choices={papers} />
          <SelectField label="Turned" value={turn} onChange={setTurn} choices={turns} />
        </div>
        <SelectField label="Lists have" value={lists} onChange={setLists} choices={listLengths} />
        <div className="border-t border-hair">
          <a
            href={`/view/${view.id}/paper${search ? `${search}&` : '?'}${query}`}
            download
            onClick={() => setOpen(false)}
            className={link}
          >
            This dashboard as a PDF
          </a>
          <a
            href={`/desk-paper/${view.desk.slug}?${query}`}
            download
            onClick={() => setOpen(false)}
            className={link}
          >
            All of {view.desk.name} as one PDF
          </a>
        </div>
        {view.mayAct && (
          <Link to={`/sendings/${view.id}${search}`} className="text-accent hover:underline">
            Send it by mail, regularly …
          </Link>
        )}
        {view.mayBuild && (
          <Link to={`/public-links/${view.id}${search}`} className="text-accent hover:underline">
            Open it to everybody by a link …
          </Link>
        )}
        <Button
          className="self-start"
          onClick={() => {
            setOpen(false);
            // What is open stands in the way.
            setTimeout(() => window.print(), 100);
          }}
        >
          Print from this browser
        </Button>
      </div>
    </Popover>
  );
}
