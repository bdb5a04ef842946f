import { useState } from 'react';
import { Link, useLocation } from 'react-router';
import { mostOnPaper } from '#core/dashboard/whole-lists.ts';
import { formatNumber } from '#core/value/format/format.ts';
import { Button } from '../ui/button.tsx';
import { here } from '../ui/here.ts';
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

/** How a dashboard is put on paper, and by whom. */
export function PaperChoices({ onDone }: { onDone: () => void }) {
  const { view } = useDesk();
  const { search } = useLocation();
  const [paper, setPaper] = useState('a4');
  const [turn, setTurn] = useState('side');
  const [lists, setLists] = useState('page');
  const listLengths = [
    { value: 'page', words: 'the records of their page' },
    { value: 'all', words: `all records, up to ${formatNumber(String(mostOnPaper))}` },
  ];
  const query = `_paper=${paper}&_turn=${turn}&_lists=${lists}`;
  const link = 'block min-h-8 border-b border-hair py-1.5 text-accent hover:bg-wash';
  return (
    <div className="flex flex-col gap-3">
      <div className="grid grid-cols-2 gap-3">
        <SelectField label="Paper" value={paper} onChange={setPaper} choices={papers} />
        <SelectField label="Turned" value={turn} onChange={setTurn} choices={turns} />
      </div>
      <SelectField label="Lists have" value={lists} onChange={setLists} choices={listLengths} />
      <div className="border-t border-hair">
        <a
          href={here(`/view/${view.id}/paper${search ? `${search}&` : '?'}${query}`)}
          download
          onClick={() => onDone()}
          className={link}
        >
          This dashboard as a PDF
        </a>
        <a
          href={here(`/desk-paper/${view.desk.slug}?${query}`)}
          download
          onClick={() => onDone()}
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
          onDone();
          // What is open stands in the way.
          setTimeout(() => window.print(), 100);
        }}
      >
        Print from this browser
      </Button>
    </div>
  );
}
