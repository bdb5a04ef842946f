import { useState } from 'react';
import { type Operation, readOpenApi } from '#core/dataset/http/openapi.ts';
import type { HttpCall } from '#core/dataset/http/schema.ts';
import { TextField } from '../../../ui/field.tsx';
import { OpenApiText } from '../../open-api-text.tsx';

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
      <OpenApiText text={text} problem={read && !read.ok ? read.why : null} onChange={setText} />
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
