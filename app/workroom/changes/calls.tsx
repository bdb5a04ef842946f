import { useRef, useState } from 'react';
import { callsProblem } from '#core/change/calls.ts';
import type { ChangeCall, ChangeCalls, Way } from '#core/dataset/change/schema.ts';
import type { DataSet } from '#core/dataset/schema.ts';
import { capital } from '#core/words/capital.ts';
import { Button } from '../../ui/button.tsx';
import { plainChoices } from '../../ui/choice.tsx';
import { CheckField, TextAreaField, TextField } from '../../ui/field.tsx';
import { Wrong } from '../../ui/message.tsx';
import { Section } from '../../ui/page.tsx';
import { SelectField } from '../../ui/select-field.tsx';
import { OpenApiText } from '../open-api-text.tsx';

const ways: readonly { way: Way; done: string; usual: ChangeCall['method'] }[] = [
  { way: 'update', done: 'changed', usual: 'PATCH' },
  { way: 'insert', done: 'added', usual: 'POST' },
  { way: 'remove', done: 'removed', usual: 'DELETE' },
];

/** By which calls a service that is no table is told of changes. */
export function Calls({
  definition,
  onChange,
}: {
  definition: DataSet;
  onChange: (calls: ChangeCalls) => void;
}) {
  const { noun, key = '', request } = definition;
  const path = request.kind === 'http' ? request.call.path : '';
  const one = `${path}/{${key}}`;
  const known = definition.changes?.calls;
  const [open, setOpen] = useState(false);
  const [draft, setDraft] = useState<ChangeCalls>(known ?? { read: { path: one, record: '$' } });
  const problem = callsProblem(draft, definition);
  const put = (way: Way, call: ChangeCall | undefined): void => {
    const { [way]: _, ...rest } = draft;
    setDraft(call ? { ...rest, [way]: call } : rest);
  };
  if (!open)
    return (
      <Section
        title="How the service is told"
        note={`By a call for each ${noun.one}. It is read before a change and again after it.`}
        action={<Button onClick={() => setOpen(true)}>{known ? 'Change' : 'Say it'}</Button>}
      >
        {known ? (
          <ul className="font-mono text-small">
            <li>GET {known.read.path}</li>
            {ways.map(({ way }) => {
              const call = known[way];
              return (
                call && (
                  <li key={way}>
                    {call.method} {call.path}
                  </li>
                )
              );
            })}
          </ul>
        ) : (
          <p className="text-muted">Nothing is set up yet, so nobody can change anything.</p>
        )}
      </Section>
    );
  return (
    <Section
      title="How the service is told"
      note="Paths and bodies hold values of the record as {field}. Without a body the fields that are set are sent."
    >
      <div className="flex flex-col gap-4">
        <FromDocument definition={definition} onFound={setDraft} />
        <div className="grid grid-cols-[1fr_10rem] gap-3">
          <TextField
            label={`One ${noun.one} is read at (GET)`}
            className="font-mono"
            value={draft.read.path}
            maxLength={4000}
            onChange={({ target }) => setDraft({ ...draft, read: { ...draft.read, path: target.value } })}
          />
          <TextField
            label="Where in the answer"
            className="font-mono"
            value={draft.read.record}
            maxLength={1000}
            onChange={({ target }) => setDraft({ ...draft, read: { ...draft.read, record: target.value } })}
          />
        </div>
        {ways.map(({ way, done, usual }) => {
          const call = draft[way];
          return (
            <div key={way} className="flex flex-col gap-2">
              <CheckField
                label={`${capital(noun.many)} can be ${done}`}
                checked={call !== undefined}
                onChange={({ target }) =>
                  put(
                    way,
                    target.checked ? { method: usual, path: way === 'insert' ? path : one } : undefined,
                  )
                }
              />
              {call && (
                <div className="ml-6 flex flex-col gap-2">
                  <div className="grid grid-cols-[7rem_1fr] gap-3">
                    <SelectField
                      label="Method"
                      value={call.method}
                      choices={plainChoices(['POST', 'PUT', 'PATCH', 'DELETE'])}
                      onChange={(method) => put(way, { ...call, method })}
                    />
                    <TextField
                      label={`Path where ${noun.many} are ${done}`}
                      className="font-mono"
                      value={call.path}
                      maxLength={4000}
                      onChange={({ target }) => put(way, { ...call, path: target.value })}
                    />
                  </div>
                  {way !== 'remove' && (
                    <TextAreaField
                      label="Body, in JSON; may be blank"
                      className="font-mono"
                      rows={2}
                      value={call.body ?? ''}
                      onChange={({ target }) => {
                        const { body: _, ...rest } = call;
                        put(way, target.value === '' ? rest : { ...rest, body: target.value });
                      }}
                    />
                  )}
                </div>
              )}
            </div>
          );
        })}
        {problem && <Wrong>{problem}.</Wrong>}
        <div className="flex gap-2">
          <Button
            look="main"
            disabled={problem !== null}
            onClick={() => {
              onChange(draft);
              setOpen(false);
            }}
          >
            Save the calls
          </Button>
          <Button look="quiet" onClick={() => setOpen(false)}>
            Cancel
          </Button>
        </div>
      </div>
    </Section>
  );
}

/** The calls as an OpenAPI document of the service describes them. */
function FromDocument({
  definition: { request, key = '' },
  onFound,
}: {
  definition: DataSet;
  onFound: (calls: ChangeCalls) => void;
}) {
  const [text, setText] = useState<string | null>(null);
  const [problem, setProblem] = useState<string | null>(null);
  const [isTaken, setTaken] = useState(false);
  const latest = useRef('');
  if (request.kind !== 'http') return null;
  const take = async (document: string): Promise<void> => {
    latest.current = document;
    setText(document);
    setTaken(false);
    setProblem(null);
    if (document.trim() === '') return;
    const { describedCalls } = await import('#core/dataset/http/openapi-changes.ts');
    if (latest.current !== document) return;
    const read = describedCalls(document, { path: request.call.path, key, columns: request.columns });
    if (!read.ok) {
      setProblem(read.why);
      return;
    }
    onFound(read.calls);
    setTaken(true);
  };
  if (text === null)
    return (
      <Button className="self-start" onClick={() => setText('')}>
        Take them from an OpenAPI document
      </Button>
    );
  return (
    <div className="flex flex-col gap-3 border-b border-hair pb-4">
      <OpenApiText text={text} problem={problem} onChange={(document) => void take(document)} />
      {isTaken && (
        <p role="status" className="text-small text-slate">
          Taken from the document. Look at them, then save.
        </p>
      )}
    </div>
  );
}
