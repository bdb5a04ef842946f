import FileUp from 'lucide-react/icons/file-up';
import { useId, useRef, useState } from 'react';
import { formatNumber } from '#core/value/format/format.ts';
import { Button } from '../ui/button.tsx';
import { useEarlyFile } from '../ui/use-early-file.ts';
import type { Upload } from './use-upload.ts';

const megabytes = (bytes: number): string => formatNumber((bytes / 1e6).toFixed(1), 1);

/** Where a file is dropped or chosen; while it is on its way, how far it is. */
export function DropPlace({
  upload,
  onFile,
  onStop,
}: {
  upload: Upload;
  onFile: (file: File) => void;
  onStop: () => void;
}) {
  const id = useId();
  const [isOver, setOver] = useState(false);
  const input = useRef<HTMLInputElement>(null);
  useEarlyFile(input, onFile);
  if (upload.state === 'sending')
    return (
      <div className="flex flex-col items-start gap-2">
        <p role="status" className="figures">
          Sending {upload.name}: {megabytes(upload.sent)} of {megabytes(upload.size)} MB
        </p>
        <progress className="h-2 w-full accent-[var(--accent)]" max={upload.size} value={upload.sent} />
        <Button onClick={onStop}>Stop</Button>
      </div>
    );
  if (upload.state === 'reading') return <p role="status">Reading {upload.name} through …</p>;
  return (
    // biome-ignore lint/a11y/noStaticElementInteractions: dropping is a way beside the file field, which everybody can reach
    <div
      className={`flex flex-col items-center gap-3 rounded-[6px] border border-dashed px-6 py-14 text-center ${isOver ? 'border-accent bg-wash' : 'border-line'}`}
      onDragOver={(event) => {
        event.preventDefault();
        setOver(true);
      }}
      onDragLeave={() => setOver(false)}
      onDrop={(event) => {
        event.preventDefault();
        setOver(false);
        const [file] = event.dataTransfer.files;
        if (file) onFile(file);
      }}
    >
      <FileUp className="size-7 text-muted" aria-hidden="true" />
      <p className="text-lead text-slate">Drop a file here, or</p>
      <input
        ref={input}
        id={id}
        type="file"
        className="peer sr-only"
        onChange={({ target }) => {
          const [file] = target.files ?? [];
          if (file) onFile(file);
        }}
      />
      <label
        htmlFor={id}
        className="order-last inline-flex min-h-8 cursor-pointer items-center rounded-[4px] border border-line bg-sheet px-3 py-1 text-small font-strong hover:border-accent hover:text-accent peer-focus-visible:outline-2 peer-focus-visible:outline-offset-2 peer-focus-visible:outline-accent"
      >
        Choose a file
      </label>
    </div>
  );
}
