import { useCallback, useEffect, useRef, useState } from 'react';
import { startOf } from '#core/dataset/outcome.ts';
import type { DataSet } from '#core/dataset/schema.ts';
import type { Problem } from '#core/value/problem/problem.ts';
import type { FieldProfile } from '#server/shape/profile.ts';
import type { StepFigures } from '#server/shape/records.ts';
import { lostProblem, postJson } from '../../ui/use-question.ts';
import type { ShapeAnswer } from '../answers.ts';

type Want = Record<string, unknown> & { readonly kind: string; readonly steps: number };
type Found<K extends string> = Extract<ShapeAnswer, { ok: true; kind: K }>['found'];

/** What the records after the first of its steps depend on: the same text for the same records. */
export const prefixKey = (definition: DataSet, steps: number): string =>
  JSON.stringify([
    definition.source,
    definition.request,
    definition.inputs,
    definition.keep !== undefined,
    startOf(definition).map(({ name, type }) => [name, type]),
    (definition.steps ?? []).slice(0, steps),
  ]);

/** The definition with only what the records after this many steps depend on. */
const upTo = (definition: DataSet, steps: number): DataSet => ({
  ...definition,
  start: [...startOf(definition)],
  fields: [...startOf(definition)],
  steps: (definition.steps ?? []).slice(0, steps),
  measures: [],
  subsets: [],
  checks: [],
});

/** What is asked of the records that readers have depends on all of the definition. */
const isWhole = ({ kind }: Want): boolean => kind === 'count' || kind === 'failing' || kind === 'meanings';

const lost: ShapeAnswer = { ok: false, problem: lostProblem('trying the steps') };

const askShape = (id: string, definition: DataSet, want: Want, signal: AbortSignal): Promise<ShapeAnswer> =>
  postJson(
    '/workroom/shape',
    { id, definition: isWhole(want) ? definition : upTo(definition, want.steps), want },
    lost,
    signal,
  );

export interface ShapeState<T> {
  /** The answer, or while a new one is awaited the one before. */
  readonly found: T | undefined;
  readonly problem: Extract<ShapeAnswer, { ok: false }>['problem'] | undefined;
  readonly busy: boolean;
  readonly again: () => void;
}

/** Typing is followed, but not letter by letter. */
const pauseMs = 250;

/** Does work a moment after the key has changed, and stops it when it changes again; null does nothing. The latest work counts. */
function usePaused(key: string | null, work: (signal: AbortSignal) => Promise<void>): void {
  const latest = useRef(work);
  latest.current = work;
  useEffect(() => {
    if (key === null) return;
    const mine = new AbortController();
    const timer = setTimeout(() => void latest.current(mine.signal), pauseMs);
    return () => {
      clearTimeout(timer);
      mine.abort();
    };
  }, [key]);
}

/** Asks about the records after some steps whenever the question changes; null asks nothing. */
export function useShape<K extends string>(
  id: string,
  definition: DataSet,
  want: (Want & { kind: K }) | null,
): ShapeState<Found<K>> {
  const key = want ? `${prefixKey(definition, want.steps)} ${JSON.stringify(want)}` : null;
  const [answer, setAnswer] = useState<{ key: string | null; answer: ShapeAnswer } | null>(null);
  const [turn, setTurn] = useState(0);
  usePaused(key === null ? null : `${turn} ${id} ${key}`, async (signal) => {
    if (!want) return;
    const got = await askShape(id, definition, want, signal);
    if (!signal.aborted) setAnswer({ key, answer: got });
  });
  const again = useCallback(() => setTurn((now) => now + 1), []);
  const isCurrent = answer?.key === key;
  return {
    found: answer?.answer.ok ? (answer.answer.found as Found<K>) : undefined,
    problem: answer && !answer.answer.ok && isCurrent ? answer.answer.problem : undefined,
    busy: key !== null && !isCurrent,
    again,
  };
}

/** Why the figures after a step could not be worked out. */
export interface FailedFigures {
  readonly failed: Problem;
}

/**
 * The figures after each step, worked out one after another and kept while the page is open. Those that failed are asked
 * for again when something changes, or `turn` does.
 */
export function useFigures(
  id: string,
  definition: DataSet,
  steps: number,
  turn: string,
): (StepFigures | FailedFigures | undefined)[] {
  const known = useRef(new Map<string, StepFigures | FailedFigures>());
  const [, setCount] = useState(0);
  const keys = Array.from({ length: steps + 1 }, (_, at) => prefixKey(definition, at));
  usePaused(`${turn} ${id}\n${keys.join('\n')}`, async (signal) => {
    for (const [at, key] of keys.entries()) {
      const there = known.current.get(key);
      if (there && !('failed' in there)) continue;
      const answer = await askShape(id, definition, { kind: 'figures', steps: at }, signal);
      if (signal.aborted) return;
      if (!answer.ok) known.current.set(key, { failed: answer.problem });
      else if (answer.kind === 'figures') known.current.set(key, answer.found);
      setCount((now) => now + 1);
    }
  });
  return keys.map((key) => known.current.get(key));
}

/** Fields described at once; the rest follow, so that the first are there soon. */
const profiledAtOnce = 8;

/** What is in each field after some steps, a few fields at a time and kept while the page is open. */
export function useProfiles(
  id: string,
  definition: DataSet,
  steps: number,
  names: readonly string[],
): ReadonlyMap<string, FieldProfile> {
  const known = useRef(new Map<string, Map<string, FieldProfile>>());
  const [, setCount] = useState(0);
  const key = prefixKey(definition, steps);
  usePaused(`${id} ${steps} ${key}\n${names.join('\n')}`, async (signal) => {
    const found = known.current.get(key) ?? new Map<string, FieldProfile>();
    known.current.set(key, found);
    const missing = names.filter((name) => !found.has(name));
    for (let at = 0; at < missing.length; at += profiledAtOnce) {
      const want = { kind: 'profile', steps, fields: missing.slice(at, at + profiledAtOnce) };
      const answer = await askShape(id, definition, want, signal);
      if (signal.aborted || !answer.ok || answer.kind !== 'profile') return;
      for (const profile of answer.found) found.set(profile.name, profile);
      setCount((now) => now + 1);
    }
  });
  return known.current.get(key) ?? new Map();
}
