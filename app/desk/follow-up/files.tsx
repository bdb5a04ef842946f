import Paperclip from 'lucide-react/icons/paperclip';
import X from 'lucide-react/icons/x';
import { useRef, useState } from 'react';
import { mostFileBytes, mostFiles } from '#core/change/follow-up.ts';
import { formatBytes } from '#core/value/format/format.ts';
import { Button, IconButton } from '../../ui/button.tsx';
import { Wrong } from '../../ui/message.tsx';

/** Files that go with a note. Those that would be too many or too large are not taken. */
export function Files({
  files,
  onChange,
}: {
  files: readonly File[];
  onChange: (files: readonly File[]) => void;
}) {
  const input = useRef<HTMLInputElement>(null);
  const [problem, setProblem] = useState<string | null>(null);
  const add = (chosen: readonly File[]): void => {
    const next = [...files, ...chosen];
    const isLarge = next.reduce((sum, { size }) => sum + size, 0) > mostFileBytes;
    if (next.length > mostFiles) setProblem(`${mostFiles} files are the most that one note may have.`);
    else if (isLarge)
      setProblem(`Together they may have ${formatBytes(mostFileBytes)}, and these are larger.`);
    else {
      setProblem(null);
      onChange(next);
    }
  };
  return (
    <div className="flex min-w-0 flex-1 flex-wrap items-center gap-x-4 gap-y-1">
      <Button onClick={() => input.current?.click()}>
        <Paperclip className="size-3.5" aria-hidden="true" /> Add a file …
      </Button>
      <input
        ref={input}
        type="file"
        multiple
        aria-label="Files of the note"
        tabIndex={-1}
        className="sr-only"
        onChange={({ target }) => {
          add([...(target.files ?? [])]);
          target.value = '';
        }}
      />
      {files.map((file, at) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: two files may have one name
        <span key={at} className="flex min-w-0 items-center gap-1 text-small">
          <span className="truncate">{file.name}</span>
          <span className="text-muted">{formatBytes(file.size)}</span>
          <IconButton
            name={`Leave out ${file.name}`}
            onClick={() => onChange(files.filter((each) => each !== file))}
          >
            <X className="size-3.5" />
          </IconButton>
        </span>
      ))}
      {problem && <Wrong>{problem}</Wrong>}
    </div>
  );
}
