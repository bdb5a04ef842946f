import { useCallback, useRef, useState } from 'react';
import { useNavigate, useRevalidator } from 'react-router';
import type { SaveAnswer } from '#server/edit.ts';
import type { SignedOut } from '#server/guard.ts';
import { here } from '../ui/here.ts';
import { untilLoaded } from '../ui/load-again.ts';

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

type Answer = SaveAnswer | SignedOut;

/** What is saved; `base`: what it was made of, where what somebody else did to that meanwhile can be told. */
type Body = Readonly<Record<string, unknown>>;

/** What takes the place of something that was never stored was made of what that was made of. */
const inPlaceOf = (body: Body, before: Body | null): Body =>
  before && 'base' in before ? { ...body, base: before.base } : body;

const unreached: SaveAnswer = {
  state: 'unsent',
  why: 'This server cannot be reached just now. What you did stays on the page; save it again once it can be.',
};

/** Sends a save. Whatever comes between, the page stays as it is, and is told. */
async function post(action: string, body: Body): Promise<Answer> {
  try {
    const response = await fetch(here(action), {
      method: 'POST',
      headers: { 'Content-Type': 'application/json' },
      body: JSON.stringify(body),
    });
    if (response.ok || response.status === 401) return (await response.json()) as Answer;
    if (response.status >= 500) return unreached;
    const isLarge = response.status === 413;
    return {
      state: 'refused',
      why: [isLarge ? 'It is larger than can be saved.' : 'It is not there any more, or you may not.'],
    };
  } catch {
    return unreached;
  }
}

/**
 * The one way to save a definition. Saves take turns, so that a person who is quick never crosses themselves; what was typed
 * stays on the page whatever the answer.
 */
export function useSave(action: string, startRevision: number, onSaved?: () => void): Saving {
  const { revalidate } = useRevalidator();
  const navigate = useNavigate();
  const revision = useRef(startRevision);
  const sent = useRef<Body>({});
  const waiting = useRef<Body | null>(null);
  const isUnderWay = useRef(false);
  const [busy, setBusy] = useState(false);
  const [answer, setAnswer] = useState<Answer | undefined>();
  const [isSaved, setIsSaved] = useState(false);
  const done = useRef(onSaved);
  done.current = onSaved;
  // What others saved meanwhile is on the page by now, where the page was loaded again.
  if (!isUnderWay.current) revision.current = Math.max(revision.current, startRevision);
  const send = useCallback(
    async (first: Body): Promise<void> => {
      isUnderWay.current = true;
      setBusy(true);
      for (let body: Body | null = first; body; ) {
        sent.current = body;
        const got = await post(action, { ...body, revision: revision.current });
        const isGood = 'state' in got && got.state === 'saved';
        if (isGood) revision.current = got.revision;
        // It is busy until the place is there that one goes on in.
        if (isGood && got.to !== undefined) return navigate(got.to);
        // What is stored is on the page before it is said to be.
        if (isGood) await untilLoaded('page', revalidate);
        const next: Body | null = waiting.current;
        waiting.current = null;
        body = isGood ? next : null;
        if (body) continue;
        // What comes after a save that went wrong waits too, for the person to choose what becomes of both.
        if (next) sent.current = inPlaceOf(next, sent.current);
        isUnderWay.current = false;
        setAnswer(got);
        setIsSaved(isGood);
        setBusy(false);
        if (isGood) done.current?.();
      }
    },
    [action, navigate, revalidate],
  );
  const save = useCallback(
    (body: Body) => {
      setAnswer(undefined);
      setIsSaved(false);
      if (isUnderWay.current) waiting.current = inPlaceOf(body, waiting.current);
      else void send(body);
    },
    [send],
  );
  const told = answer && 'state' in answer ? answer : null;
  return {
    busy,
    isUnderWay: () => isUnderWay.current,
    isSaved: isSaved && !busy,
    refused: told?.state === 'refused' ? told.why : [],
    crossed: told?.state === 'crossed' ? told : null,
    meanwhile: (told?.state === 'saved' && told.meanwhile) || [],
    signedOut: answer !== undefined && 'signedOut' in answer,
    unsent: told?.state === 'unsent' ? told.why : null,
    save,
    retry: () => save(sent.current),
    saveOver: () => {
      if (told?.state !== 'crossed') return;
      revision.current = told.revision;
      save({ ...sent.current, over: true });
    },
  };
}
