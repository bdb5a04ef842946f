import { useEffect, useRef, useState } from 'react';
import { Button } from '../ui/button.tsx';

/** Searches as one types, without asking for every letter. */
export function Search({
  label,
  value,
  onSearch,
}: {
  label: string;
  value: string;
  onSearch: (text: string) => void;
}) {
  const [text, setText] = useState(value);
  const timer = useRef<ReturnType<typeof setTimeout>>(undefined);
  const sent = useRef(value);
  useEffect(() => {
    if (value !== sent.current) {
      sent.current = value;
      setText(value);
    }
  }, [value]);
  const send = (next: string): void => {
    sent.current = next;
    onSearch(next);
  };
  return (
    <span className="flex items-center gap-1">
      <input
        type="search"
        data-table-search
        aria-label={label}
        placeholder={label}
        value={text}
        maxLength={200}
        onChange={(event) => {
          const next = event.target.value;
          setText(next);
          clearTimeout(timer.current);
          timer.current = setTimeout(() => send(next), 250);
        }}
        className="h-7 w-48 border-b border-line bg-transparent px-1 text-small placeholder:text-muted"
      />
      {text && (
        <Button
          look="quiet"
          className="min-h-6 px-1.5"
          onClick={() => {
            setText('');
            send('');
          }}
        >
          Clear
        </Button>
      )}
    </span>
  );
}
