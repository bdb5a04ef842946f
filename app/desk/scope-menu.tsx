import BookmarkCheck from 'lucide-react/icons/bookmark-check';
import Pin from 'lucide-react/icons/pin';
import Trash2 from 'lucide-react/icons/trash-2';
import { useId, useRef, useState } from 'react';
import { Link } from 'react-router';
import { queryText, writeScope } from '#core/dashboard/scope/address.ts';
import { type SavedScope, savedAddress } from '#core/dashboard/scope/saved.ts';
import { Button, IconButton } from '../ui/button.tsx';
import { ConfirmRemove } from '../ui/confirm-remove.tsx';
import { CheckField, TextField } from '../ui/field.tsx';
import { useFocusInSheet } from '../ui/focus.ts';
import { Wrong } from '../ui/message.tsx';
import { useDesk } from './desk-context.ts';
import { useSavedScopes } from './use-saved-scopes.ts';

/** The scopes that are saved, and how what is shown now becomes one. */
export function ScopeMenu({ onChosen }: { onChosen: () => void }) {
  const { context } = useDesk();
  const { answer: data, isBusy, ask } = useSavedScopes();
  const place = useRef<HTMLDivElement>(null);
  useFocusInSheet(place, data !== undefined, 'a, input');
  const now = savedAddress(queryText(writeScope(context.scope)));
  const lists = [
    { name: 'Yours', scopes: data?.scopes.filter(({ isForAll }) => !isForAll) ?? [] },
    { name: 'For everybody', scopes: data?.scopes.filter(({ isForAll }) => isForAll) ?? [] },
  ];
  return (
    <div ref={place} className="flex flex-col gap-3" aria-busy={isBusy}>
      {data && data.scopes.length === 0 && (
        <p className="text-muted">
          Nothing is saved yet. Choose what this page shows, give it a name, and it is one click away from
          then on.
        </p>
      )}
      {lists
        .filter(({ scopes }) => scopes.length > 0)
        .map(({ name, scopes }) => (
          <ScopeList
            key={name}
            name={name}
            scopes={scopes}
            now={now}
            mayRemove={name === 'Yours' || data?.mayOffer === true}
            onChosen={onChosen}
            onAsk={ask}
          />
        ))}
      {data && (
        <SaveForm
          mayOffer={data.mayOffer}
          isBusy={isBusy}
          onSave={(fields) => ask({ ask: 'save', search: now, ...fields })}
        />
      )}
      {data?.problem && <Wrong>{data.problem}</Wrong>}
    </div>
  );
}

function ScopeList({
  name,
  scopes,
  now,
  mayRemove,
  onChosen,
  onAsk,
}: {
  name: string;
  scopes: readonly SavedScope[];
  now: string;
  mayRemove: boolean;
  onChosen: () => void;
  onAsk: (fields: Record<string, string>) => void;
}) {
  const id = useId();
  return (
    <section aria-labelledby={id}>
      <h3 id={id} className="text-small text-slate">
        {name}
      </h3>
      <ul>
        {scopes.map((scope) => (
          <li key={scope.id} className="flex items-center border-b border-hair">
            <Link
              to={{ search: scope.search }}
              preventScrollReset
              aria-current={scope.search === now ? 'true' : undefined}
              onClick={onChosen}
              className={`flex min-h-8 min-w-0 flex-1 items-center gap-1.5 hover:text-accent hover:underline ${scope.search === now ? 'font-strong text-accent' : ''}`}
            >
              <span className="truncate">{scope.name}</span>
              {scope.search === now && <BookmarkCheck aria-hidden="true" className="size-4 shrink-0" />}
            </Link>
            <IconButton
              name={scope.opens ? `No longer open with ${scope.name}` : `Open with ${scope.name}`}
              aria-pressed={scope.opens}
              className={scope.opens ? 'text-accent' : ''}
              onClick={() => onAsk(scope.opens ? { ask: 'open with' } : { ask: 'open with', id: scope.id })}
            >
              <Pin className={`size-4 ${scope.opens ? 'fill-current' : ''}`} />
            </IconButton>
            {mayRemove && (
              <ConfirmRemove
                what={`“${scope.name}”`}
                goesWith={
                  scope.isForAll
                    ? [
                        'It is offered to everybody. Where it opens the dashboard, that begins as it is again.',
                      ]
                    : []
                }
                onRemove={() => onAsk({ ask: 'remove', id: scope.id })}
                trigger={
                  <IconButton name={`Remove ${scope.name}`}>
                    <Trash2 className="size-4" />
                  </IconButton>
                }
              />
            )}
          </li>
        ))}
      </ul>
    </section>
  );
}

/** Gives a name to what the page shows now. */
function SaveForm({
  mayOffer,
  isBusy,
  onSave,
}: {
  mayOffer: boolean;
  isBusy: boolean;
  onSave: (fields: Record<string, string>) => void;
}) {
  const [name, setName] = useState('');
  const [forAll, setForAll] = useState(false);
  return (
    <form
      className="flex flex-col gap-2"
      onSubmit={(event) => {
        event.preventDefault();
        if (name.trim() === '' || isBusy) return;
        onSave({ name: name.trim(), ...(forAll ? { forAll: 'on' } : {}) });
        setName('');
        setForAll(false);
      }}
    >
      <div className="flex items-end gap-2">
        <div className="min-w-0 flex-1">
          <TextField
            label="Name this scope"
            value={name}
            maxLength={200}
            placeholder="My late ferries"
            onChange={({ target }) => setName(target.value)}
          />
        </div>
        <Button type="submit" disabled={name.trim() === ''}>
          Save
        </Button>
      </div>
      {mayOffer && (
        <CheckField
          label="Offer it to everybody who reads this"
          checked={forAll}
          onChange={({ target }) => setForAll(target.checked)}
        />
      )}
    </form>
  );
}
