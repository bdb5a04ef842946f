import { useCallback, useEffect, useRef, useState } from 'react';
import { useFetcher } from 'react-router';
import type { SaveAnswer } from '#server/edit.ts';
import type { SignedOut } from '#server/guard.ts';
import type { Unsent } from './save-or-stay.ts';

/** How a save stands: what to show when it was refused, crossed another's, or the session had ended. */
export interface Saving {
  readonly busy: boolean;
  /** Something has been sent whose answer has not been acted upon, or waits for its turn. */
  isUnderWay(): boolean;
  /** The latest definition that was sent is stored. */
  readonly isSaved: boolean;
  readonly refused: readonly string[];
  readonly crossed: Extract<SaveAnswer, { state: 'crossed' }> | null;
  readonly signedOut: boolean;
  /** Why it did not arrive, or could not be stored just now; null where it did. */
  readonly unsent: string | null;
  /** What somebody else did to other parts of it meanwhile: it is kept beside what was saved last. */
  readonly meanwhile: readonly string[];
  /** Sends the definition with the revision it started from; while one is under way the latest waits for its turn. */
  save(body: Body): void;
  /** Sends the same again, once signed in again or once this server can be reached. */
  retry(): void;
  /** Takes over the other's revision and saves over it. */
  saveOver(): void;
}

type Answer = SaveAnswer | SignedOut | Unsent;

/** What is saved; `base`: what it was made of, where what somebody else did to that meanwhile can be told. */
type Body = Readonly<Record<string, unknown>>;

/** What takes the place of something that was never stored was made of what that was made of. */
const inPlaceOf = (body: Body, before: Body | null): Body =>
  before && 'base' in before ? { ...body, base: before.base } : body;

/**
 * The one way to save a definition. Saves take turns, so that a person who is quick never crosses themselves; what was typed
 * stays on the page whatever the answer.
 */
export function useSave(action: string, startRevision: number, onSaved?: () => void): Saving {
  const fetcher = useFetcher<Answer>();
  const revision = useRef(startRevision);
  const sent = useRef<Body>({});
  const waiting = useRef<Body | null>(null);
  const isUnderWay = useRef(false);
  const [answer, setAnswer] = useState<Answer | undefined>();
  const [isSaved, setIsSaved] = useState(false);
  const { submit, data, state } = fetcher;
  // What others saved meanwhile is on the page by now, where the page was loaded again.
  if (!isUnderWay.current) revision.current = Math.max(revision.current, startRevision);
  const send = useCallback(
    (body: Body) => {
      sent.current = body;
      isUnderWay.current = true;
      void submit(JSON.stringify({ ...body, revision: revision.current }), {
        method: 'post',
        action,
        encType: 'application/json',
      });
    },
    [action, submit],
  );
  const save = useCallback(
    (body: Body) => {
      setAnswer(undefined);
      setIsSaved(false);
      if (isUnderWay.current) waiting.current = inPlaceOf(body, waiting.current);
      else send(body);
    },
    [send],
  );
  // Each answer is acted upon once, however often the page is drawn meanwhile: to go elsewhere twice is to go nowhere.
  const seen = useRef<typeof data>(undefined);
  const done = useRef(onSaved);
  done.current = onSaved;
  useEffect(() => {
    if (state !== 'idle' || data === undefined || data === seen.current) return;
    seen.current = data;
    isUnderWay.current = false;
    const isGood = 'state' in data && data.state === 'saved';
    if (isGood) revision.current = data.revision;
    const next = waiting.current;
    waiting.current = null;
    // What comes after a save that went wrong waits too, for the person to choose what becomes of both.
    if (isGood && next) return send(next);
    if (next) sent.current = inPlaceOf(next, sent.current);
    setAnswer(data);
    setIsSaved(isGood);
    if (isGood) done.current?.();
  }, [data, state, send]);
  const told = answer && 'state' in answer ? answer : null;
  return {
    busy: state !== 'idle',
    isUnderWay: () => isUnderWay.current,
    isSaved: isSaved && state === 'idle',
    refused: told?.state === 'refused' ? told.why : [],
    crossed: told?.state === 'crossed' ? told : null,
    meanwhile: (told?.state === 'saved' && told.meanwhile) || [],
    signedOut: answer !== undefined && 'signedOut' in answer,
    unsent: answer !== undefined && 'unsent' in answer ? answer.unsent : null,
    save,
    retry: () => save(sent.current),
    saveOver: () => {
      if (told?.state !== 'crossed') return;
      revision.current = told.revision;
      save({ ...sent.current, over: true });
    },
  };
}
