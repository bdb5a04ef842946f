import { useCallback, useEffect, useLayoutEffect, useMemo, useRef, useState } from 'react';
import { setEdition } from '#core/dashboard/edition.ts';
import type { PickedRecords } from '#core/dashboard/flow/context.ts';
import { paneKey } from '#core/dashboard/flow/reads.ts';
import { delaysId, type PaneResult, pickedId, scopeCountId } from '#core/dashboard/pane/result.ts';
import { focusText, scopeParams } from '#core/dashboard/scope/address.ts';
import type { Scope } from '#core/dashboard/scope/state.ts';
import type { Delays } from '#server/panes/delays.ts';
import type { DashboardView, ScopeCount } from '#server/panes/shown.ts';
import { here } from '../ui/here.ts';

/** What a pane shows now: its latest result, and whether a newer one is on its way. */
export interface Showing {
  readonly result: PaneResult | null;
  readonly isStale: boolean;
}

type Answer = PaneResult | ScopeCount | PickedRecords | Delays | null;
interface Known {
  readonly key: string;
  readonly answer: Answer;
}

/** Results kept for going back, and how long they are good for. */
const mostKept = 200;
const keptMs = 60_000;
/** How often what is old because of an outage is asked for again. */
const outageMs = 30_000;
const retryMs = [3_000, 6_000, 12_000, 24_000];
const transient = new Set(['unreachable', 'refused', 'time-out', 'too-much']);

/** Reads newline-delimited JSON as it comes. */
async function* lines(response: Response): AsyncGenerator<unknown> {
  const reader = response.body?.pipeThrough(new TextDecoderStream()).getReader();
  let rest = '';
  for (;;) {
    const read = await reader?.read();
    if (!read || read.done) return;
    rest += read.value;
    const whole = rest.split('\n');
    rest = whole.pop() ?? '';
    for (const line of whole) if (line) yield JSON.parse(line);
  }
}

/** The oldest moment at which any of the results was true. */
function oldest(answers: readonly Answer[]): string | null {
  const moments = answers.flatMap((answer) =>
    answer && 'state' in answer && answer.state === 'ready' ? [answer.trueAt] : [],
  );
  return moments.sort()[0] ?? null;
}

const lost: PaneResult = {
  state: 'failed',
  problem: {
    code: 'unreachable',
    doing: 'asking this server',
    why: 'the connection was lost',
    mend: 'It is tried again by itself.',
  },
};

/**
 * Keeps the panes of a dashboard in step with its scope. A change asks only for the panes whose key it changes, in one
 * streamed request; what nobody waits for any more is aborted; a scope returned to shows its results at once.
 */
export function usePanes(view: DashboardView, scope: Scope, search: string, onSignedOut: () => void) {
  const [known, setKnown] = useState<Record<string, Known>>({});
  const [pending, setPending] = useState<ReadonlySet<string>>(new Set());
  const kept = useRef(new Map<string, { answer: Answer; at: number }>());
  const asking = useRef<{ controller: AbortController; panes: Map<string, string> }[]>([]);
  const tries = useRef<Record<string, number>>({});
  const keys = useMemo(() => {
    const found: Record<string, string> = {};
    for (const [id, reads] of Object.entries(view.reads)) found[id] = paneKey(id, reads, scope);
    found[delaysId] = delaysId;
    found[pickedId] = JSON.stringify([pickedId, scope.focus.map(focusText)]);
    return found;
  }, [view.reads, scope]);
  const latest = useRef({ keys, search });
  latest.current = { keys, search };

  const ask = useCallback(
    async (ids: readonly string[]) => {
      const { keys: wanted, search: address } = latest.current;
      const panes = new Map(ids.map((id) => [id, wanted[id] ?? '']));
      for (const earlier of asking.current) {
        for (const id of ids) earlier.panes.delete(id);
        if (earlier.panes.size === 0) earlier.controller.abort();
      }
      const batch = { controller: new AbortController(), panes };
      asking.current = [...asking.current.filter((each) => each.panes.size > 0), batch];
      setPending((now) => new Set([...now, ...ids]));
      const settle = (id: string, answer: Answer, done: boolean): void => {
        const key = batch.panes.get(id);
        if (key === undefined) return;
        setKnown((now) => ({ ...now, [id]: { key, answer } }));
        if (!done) return;
        batch.panes.delete(id);
        setPending((now) => new Set([...now].filter((each) => each !== id)));
      };
      try {
        const params = scopeParams(address);
        setEdition(params, view.edition);
        params.set('_panes', ids.join(','));
        const response = await fetch(here(`/view/${view.id}/panes?${params}`), {
          signal: batch.controller.signal,
        });
        if (!response.headers.get('content-type')?.includes('ndjson')) {
          if (response.redirected || response.status === 401) onSignedOut();
          throw new Error(`the server answered ${response.status}`);
        }
        for await (const line of lines(response)) {
          const { id, result } = line as { id: string; result: Answer };
          const isPartial =
            result !== null && 'state' in result && result.state === 'ready' && result.isPartial === true;
          const key = batch.panes.get(id);
          settle(id, result, !isPartial);
          if (isPartial || key === undefined) continue;
          const failed = result !== null && 'state' in result && result.state === 'failed';
          if (!failed) {
            delete tries.current[id];
            kept.current.set(key, { answer: result, at: performance.now() });
            for (const oldest of kept.current.keys()) {
              if (kept.current.size <= mostKept) break;
              kept.current.delete(oldest);
            }
          }
        }
        for (const id of [...batch.panes.keys()]) settle(id, lost, true);
      } catch {
        if (!batch.controller.signal.aborted)
          for (const id of [...batch.panes.keys()]) settle(id, lost, true);
      }
    },
    [view.id, view.edition, onSignedOut],
  );

  const first = useRef(true);
  const previous = useRef(keys);
  // Before the page is painted, so that what the scope leaves is asked for meanwhile.
  useLayoutEffect(() => {
    if (first.current) {
      first.current = false;
      return;
    }
    const changed = Object.keys(keys).filter((id) => keys[id] !== previous.current[id]);
    previous.current = keys;
    const fresh: Record<string, Known> = {};
    const toAsk = changed.filter((id) => {
      const key = keys[id] ?? '';
      const held = kept.current.get(key);
      if (!held || performance.now() - held.at > keptMs) return true;
      fresh[id] = { key, answer: held.answer };
      return false;
    });
    if (Object.keys(fresh).length > 0) setKnown((now) => ({ ...now, ...fresh }));
    if (toAsk.length > 0) void ask(toAsk);
  }, [keys, ask]);

  /** Remembers what came with the page itself. */
  const take = useCallback((id: string, answer: Answer) => {
    const key = latest.current.keys[id] ?? '';
    setKnown((now) => (now[id] ? now : { ...now, [id]: { key, answer } }));
    if (answer === null || !('state' in answer) || answer.state !== 'failed')
      kept.current.set(key, { answer, at: performance.now() });
  }, []);

  // A source that went away is asked again by itself, less and less often; its panes mend without anybody reloading.
  useEffect(() => {
    const broken = Object.entries(known).filter(
      ([id, { answer }]) =>
        !pending.has(id) &&
        answer !== null &&
        'state' in answer &&
        answer.state === 'failed' &&
        transient.has(answer.problem.code),
    );
    if (broken.length === 0) return;
    const soonest = Math.min(
      ...broken.map(([id]) => retryMs[Math.min(tries.current[id] ?? 0, retryMs.length - 1)] ?? 24_000),
    );
    const timer = setTimeout(() => {
      for (const [id] of broken) tries.current[id] = (tries.current[id] ?? 0) + 1;
      void ask(broken.map(([id]) => id));
    }, soonest);
    return () => clearTimeout(timer);
  }, [known, pending, ask]);

  const refresh = useCallback(() => {
    kept.current.clear();
    void ask(Object.keys(latest.current.keys));
  }, [ask]);

  const retry = useCallback((id: string) => void ask([id]), [ask]);

  const usesOf = useCallback((id: string) => view.reads[id]?.dataSets ?? [], [view.reads]);

  /** Asks again for the panes of data sets that have new records; none named: for all. What is shown stays until then. */
  const changed = useCallback(
    (dataSets: readonly string[]) => {
      kept.current.clear();
      const touched = view.dashboard.panes.filter(
        ({ id }) => dataSets.length === 0 || usesOf(id).some((each) => dataSets.includes(each)),
      );
      const ids = touched.map(({ id }) => id).filter((id) => latest.current.keys[id] !== undefined);
      if (ids.length > 0) void ask([...ids, scopeCountId, delaysId]);
    },
    [ask, usesOf, view.dashboard.panes],
  );

  const { outages, changes } = useMemo((): Delays => {
    const answer = known[delaysId]?.answer;
    return answer && 'outages' in answer ? answer : { outages: [], changes: [] };
  }, [known]);
  // While a source does not answer, what comes from it is asked for again, so that the page recovers by itself.
  useEffect(() => {
    if (outages.length === 0) return;
    const ids = new Set(outages.flatMap(({ dataSets }) => dataSets.map(({ id }) => id)));
    const timer = setInterval(() => changed([...ids]), outageMs);
    return () => clearInterval(timer);
  }, [outages, changed]);

  const answerOf = (id: string): Answer | undefined => known[id]?.answer;
  return {
    showing: (id: string): Showing => {
      const answer = answerOf(id);
      // Known at once that it is old: to be told so only once it has been asked for would draw every pane twice.
      const isOld = known[id] !== undefined && known[id].key !== keys[id];
      return { result: answer && 'state' in answer ? answer : null, isStale: isOld || pending.has(id) };
    },
    count: (id: string): ScopeCount | null => {
      const answer = answerOf(id);
      return answer && 'kept' in answer ? answer : null;
    },
    /** What is known of the records that are picked; null until the server has said. */
    picked: (id: string): PickedRecords | null => {
      const answer = answerOf(id);
      return answer && 'names' in answer ? answer : null;
    },
    retry,
    take,
    refresh,
    changed,
    isBusy: pending.size > 0,
    trueAt: oldest(Object.values(known).map(({ answer }) => answer)),
    changes,
    outages: outages.map((outage) => ({
      ...outage,
      /** The oldest moment at which what is shown of it was true. */
      trueAt: oldest(
        view.dashboard.panes
          .filter(({ id }) => outage.dataSets.some((each) => usesOf(id).includes(each.id)))
          .map(({ id }) => answerOf(id) ?? null),
      ),
    })),
  };
}
