import { useCallback, useEffect, useRef, useState } from 'react';
import { useFetcher } from 'react-router';
import { toast } from 'sonner';
import type { SaveAnswer } from '#server/edit.ts';
import type { SignedOut } from '#server/guard.ts';

/** How a save stands: what to show when it was refused, crossed another's, or the session had ended. */
export interface Saving {
  readonly busy: boolean;
  readonly refused: readonly string[];
  readonly crossed: Extract<SaveAnswer, { state: 'crossed' }> | null;
  readonly signedOut: boolean;
  /** Sends the definition with the revision it started from. */
  save(body: object): void;
  /** Sends the same again, once signed in again. */
  retry(): void;
  /** Takes over the other's revision and saves over it. */
  saveOver(): void;
}

/** The one way to save a definition. What was typed stays on the page whatever the answer. */
export function useSave(action: string, startRevision: number, onSaved?: () => void): Saving {
  const fetcher = useFetcher<SaveAnswer | SignedOut>();
  const revision = useRef(startRevision);
  const sent = useRef<object>({});
  const [answer, setAnswer] = useState<SaveAnswer | SignedOut | undefined>();
  const { submit, data, state } = fetcher;
  const save = useCallback(
    (body: object) => {
      sent.current = body;
      setAnswer(undefined);
      void submit(JSON.stringify({ ...body, revision: revision.current }), {
        method: 'post',
        action,
        encType: 'application/json',
      });
    },
    [action, submit],
  );
  // Each answer is acted upon once, however often the page is drawn meanwhile: to go elsewhere twice is to go nowhere.
  const seen = useRef<typeof data>(undefined);
  const done = useRef(onSaved);
  done.current = onSaved;
  useEffect(() => {
    if (state !== 'idle' || data === undefined || data === seen.current) return;
    seen.current = data;
    setAnswer(data);
    if ('state' in data && data.state === 'saved') {
      revision.current = data.revision;
      toast.success('Saved');
      done.current?.();
    }
  }, [data, state]);
  const told = answer && 'state' in answer ? answer : null;
  return {
    busy: state !== 'idle',
    refused: told?.state === 'refused' ? told.why : [],
    crossed: told?.state === 'crossed' ? told : null,
    signedOut: answer !== undefined && 'signedOut' in answer,
    save,
    retry: () => save(sent.current),
    saveOver: () => {
      if (told?.state !== 'crossed') return;
      revision.current = told.revision;
      save(sent.current);
    },
  };
}
