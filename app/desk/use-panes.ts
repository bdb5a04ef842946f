import { useCallback, useEffect, useLayoutEffect, useMemo, useRef, useState } from 'react';
import { setEdition } from '#core/dashboard/edition.ts';
import type { PickedRecords } from '#core/dashboard/flow/context.ts';
import { paneKey } from '#core/dashboard/flow/reads.ts';
import { delaysId, type PaneResult, pickedId, scopeCountId } from '#core/dashboard/pane/result.ts';
import { focusText, scopeParams } from '#core/dashboard/scope/address.ts';
import type { Scope } from '#core/dashboard/scope/state.ts';
import type { Delays } from '#server/panes/delays.ts';
import type { DashboardView, FirstResults, Soon } from '#server/panes/shown.ts';
import { here } from '../ui/here.ts';
import { readable } from '../ui/readable.ts';
import { type Answer, type Loaded, PaneLoader } from './pane-loader.ts';

/** What a pane shows now: its latest result, or what comes with the page; and whether a newer one is on its way. */
export interface Showing {
  readonly result: Soon<PaneResult> | null;
  readonly isStale: boolean;
}

/** How often what is old because of an outage is asked for again. */
const outageMs = 30_000;

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

/** Asks the server for panes of a dashboard. */
async function* askedFor(
  { view, onSignedOut }: { readonly view: DashboardView; readonly onSignedOut: () => void },
  ids: readonly string[],
  search: string,
  signal: AbortSignal,
): AsyncGenerator<{ id: string; result: Answer }> {
  const params = scopeParams(search);
  setEdition(params, view.edition);
  params.set('_panes', ids.join(','));
  const response = await fetch(here(`/view/${view.id}/panes?${params}`), { signal });
  if (!response.headers.get('content-type')?.includes('ndjson')) {
    if (response.redirected || response.status === 401) onSignedOut();
    throw new Error(`the server answered ${response.status}`);
  }
  for await (const line of lines(response)) yield line as { id: string; result: Answer };
}

/** The oldest moment at which any of the results was true. */
function oldest(answers: readonly Answer[]): string | null {
  const moments = answers.flatMap((answer) =>
    answer && 'state' in answer && answer.state === 'ready' ? [answer.trueAt] : [],
  );
  return moments.sort()[0] ?? null;
}

/**
 * Keeps the panes of a dashboard in step with its scope. A change asks only for the panes whose key it changes, in one
 * streamed request; what nobody waits for any more is aborted; a scope returned to shows its results at once.
 */
export function usePanes(
  view: DashboardView,
  first: FirstResults,
  scope: Scope,
  search: string,
  onSignedOut: () => void,
) {
  const keysOf = useCallback(
    (of: Scope): Record<string, string> => ({
      ...Object.fromEntries(
        Object.entries(view.reads).map(([id, reads]) => [id, paneKey(id, reads, of)] as const),
      ),
      [delaysId]: delaysId,
      [pickedId]: JSON.stringify([pickedId, of.focus.map(focusText)]),
    }),
    [view.reads],
  );
  const keys = useMemo(() => keysOf(scope), [keysOf, scope]);
  const asker = useRef({ view, onSignedOut });
  asker.current = { view, onSignedOut };
  const [loaded, setLoaded] = useState<Loaded>({ known: {}, pending: new Set() });
  const { known, pending } = loaded;
  const [loader] = useState(
    () => new PaneLoader({ keys, search }, (...asked) => askedFor(asker.current, ...asked), setLoaded),
  );
  // Before the page is painted, so that what the scope leaves is asked for meanwhile.
  useLayoutEffect(() => loader.show({ keys, search }), [loader, keys, search]);
  useEffect(() => () => loader.stop(), [loader]);
  /** Asks for what a scope will show, as an address has it, before the page is there. */
  const askAhead = useCallback(
    (next: Scope, address: string) => loader.askAhead({ keys: keysOf(next), search: address }),
    [loader, keysOf],
  );
  // Of each pane the first that came: once it is there, only what is asked for takes its place.
  const came = useRef<FirstResults['panes']>({});
  came.current = { ...first.panes, ...came.current };
  for (const each of Object.values(came.current)) readable(each);
  useEffect(
    () =>
      loader.take({
        ...first.panes,
        [pickedId]: first.picked,
        [delaysId]: first.delays,
        [scopeCountId]: first.count,
      }),
    [loader, first],
  );
  /** Asks for everything again; with a moment (`performance.now()`) for what has not been asked for since. */
  const refresh = useCallback(
    (since?: number) => {
      loader.forget();
      loader.askAll(since);
    },
    [loader],
  );
  const retry = useCallback((id: string) => loader.ask([id]), [loader]);

  const usesOf = useCallback((id: string) => view.reads[id]?.dataSets ?? [], [view.reads]);

  /** Asks again for the panes of data sets that have new records; none named: for all. What is shown stays until then. */
  const changed = useCallback(
    (dataSets: readonly string[]) => {
      loader.forget();
      const touched = view.dashboard.panes.filter(
        ({ id }) => dataSets.length === 0 || usesOf(id).some((each) => dataSets.includes(each)),
      );
      const ids = touched.map(({ id }) => id).filter((id) => view.reads[id] !== undefined);
      if (ids.length > 0) loader.ask([...ids, scopeCountId, delaysId, pickedId]);
    },
    [loader, usesOf, view.reads, view.dashboard.panes],
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
  const count = answerOf(scopeCountId);
  const resultOf = (id: string): PaneResult | null => {
    const answer = answerOf(id);
    return answer && 'state' in answer ? answer : null;
  };
  return {
    showing: (id: string): Showing => {
      const latest = known[id];
      // Known at once that it is old: to be told so only once it has been asked for would draw every pane twice.
      const isOld = latest !== undefined && latest.key !== keys[id];
      return {
        // What came with the page is shown already: to be told so would draw every pane once more.
        result: latest && !latest.isFirst ? resultOf(id) : (came.current[id] ?? null),
        isStale: isOld || pending.has(id),
      };
    },
    resultOf,
    count: count && 'kept' in count ? count : readable(first.count),
    /** What is known of the records that are picked; null until the server has said. */
    picked: (id: string): PickedRecords | null => {
      const answer = answerOf(id);
      return answer && 'names' in answer ? answer : null;
    },
    retry,
    askAhead,
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
