import { useState } from 'react';
import { type Operation, readOpenApi } from '#core/dataset/http/openapi.ts';
import type { HttpCall } from '#core/dataset/http/schema.ts';
import { TextAreaField, TextField } from '../../../ui/field.tsx';
import { Wrong } from '../../../ui/message.tsx';

/** The operations of an OpenAPI document that is pasted or chosen as a file. */
export function OperationList({ onChoose }: { onChoose: (call: HttpCall) => void }) {
  const [text, setText] = useState('');
  const [find, setFind] = useState('');
  const read = text.trim() ? readOpenApi(text) : null;
  const operations: readonly Operation[] = read?.ok ? read.operations : [];
  const found = operations.filter(({ call, summary }) =>
    `${call.method} ${call.path} ${summary}`.toLowerCase().includes(find.toLowerCase()),
  );
  return (
    <div className="mb-4 flex flex-col gap-3 border-b border-hair pb-4">
      <TextAreaField
        label="An OpenAPI 3 document"
        hint="JSON or YAML, pasted here or dropped as a file."
        className="h-28 font-mono text-small"
        value={text}
        onChange={({ target }) => setText(target.value)}
        onDrop={(event) => {
          const [file] = event.dataTransfer.files;
          if (!file) return;
          event.preventDefault();
          void file.text().then(setText);
        }}
      />
      {read && !read.ok && <Wrong>{read.why}</Wrong>}
      {operations.length > 8 && (
        <TextField label="Find" value={find} onChange={({ target }) => setFind(target.value)} />
      )}
      <ul className="max-h-64 overflow-auto">
        {found.map((operation) => (
          <li key={`${operation.call.method} ${operation.call.path}`}>
            <button
              type="button"
              onClick={() => onChoose(operation.call)}
              className="grid w-full grid-cols-[3.5rem_1fr] gap-x-2 border-b border-hair py-1.5 text-left hover:bg-wash hover:text-accent"
            >
              <span className="text-small text-muted">{operation.call.method}</span>
              <span className="font-mono text-small break-all">{operation.call.path}</span>
              {operation.summary && (
                <span className="col-start-2 text-small text-muted">{operation.summary}</span>
              )}
            </button>
          </li>
        ))}
      </ul>
    </div>
  );
}
