import { here } from '../ui/here.ts';

/*
 * The open pages of a browser share one connection to the server, since HTTP/1.1 allows six in all: one page holds it for the
 * others, and the next one takes it over when that page goes.
 */

/** What a page hears. */
export interface Hear {
  /** Data sets of its dashboard that show new records; of none in particular where anything may have changed. */
  readonly changed: (dataSets: readonly string[]) => void;
  /** What the person has to follow up is otherwise. */
  readonly given: () => void;
}

/** What comes over the line: data sets of a dashboard have new records; what the person has to follow up is otherwise; or the line was lost and is back, so anything may be. */
type News =
  | { readonly kind: 'changed'; readonly name: string; readonly dataSets: readonly string[] }
  | { readonly kind: 'given' }
  | { readonly kind: 'back' };

/** What pages of a browser say to each other. */
type Message =
  /** Each page says what it watches when it begins to, and whenever it is asked. */
  | { readonly kind: 'watching'; readonly page: string; readonly name: string }
  | { readonly kind: 'gone'; readonly page: string }
  | { readonly kind: 'who' }
  | News;

const lockName = 'slate live line';
/** Pages that open together are asked for together. */
const gatherMs = 100;

/** A connection for some dashboards, which the browser opens again by itself. */
function lineFor(names: readonly string[], tell: (news: News) => void): EventSource {
  const source = new EventSource(here(`/live?${new URLSearchParams(names.map((name) => ['watch', name]))}`));
  let wasLost = false;
  source.addEventListener('changed', (event: MessageEvent<string>) =>
    tell({ kind: 'changed', ...(JSON.parse(event.data) as { name: string; dataSets: string[] }) }),
  );
  source.addEventListener('given', () => tell({ kind: 'given' }));
  source.addEventListener('error', () => {
    wasLost = true;
  });
  source.addEventListener('open', () => {
    if (wasLost) tell({ kind: 'back' });
    wasLost = false;
  });
  return source;
}

/** Holds the connection for all pages that say what they watch. Returns how to let it go. */
function holdLine(): () => void {
  // Of its own, since a channel does not hear itself: the page that holds the line is told like the others.
  const channel = new BroadcastChannel(lockName);
  const watched = new Map<string, string>();
  let source: EventSource | null = null;
  let held = '';
  let timer: ReturnType<typeof setTimeout> | undefined;
  const connect = (): void => {
    const names = [...new Set(watched.values())].sort();
    if (names.join() === held) return;
    held = names.join();
    const before = source;
    source = names.length > 0 ? lineFor(names, (news) => channel.postMessage(news)) : null;
    // Only once the next line is there, lest something be missed between the two.
    if (source) source.addEventListener('open', () => before?.close(), { once: true });
    else before?.close();
  };
  channel.addEventListener('message', ({ data }: MessageEvent<Message>) => {
    if (data.kind === 'watching') watched.set(data.page, data.name);
    else if (data.kind === 'gone') watched.delete(data.page);
    else return;
    clearTimeout(timer);
    timer = setTimeout(connect, gatherMs);
  });
  channel.postMessage({ kind: 'who' } satisfies Message);
  return () => {
    clearTimeout(timer);
    channel.close();
    source?.close();
  };
}

/** Holds the line, or waits to hold it, until what it returns is called. */
function holdInTurn(): () => void {
  const stop = new AbortController();
  const held = (): Promise<void> => {
    const letGo = holdLine();
    return new Promise((resolve) =>
      stop.signal.addEventListener('abort', () => {
        letGo();
        resolve();
      }),
    );
  };
  navigator.locks.request(lockName, { signal: stop.signal }, held).catch(() => undefined);
  return () => stop.abort();
}

/** Watches a dashboard, by its name (see `watchedAs`), until what it returns is called. */
export function watch(name: string, hear: Hear): () => void {
  const own = (news: News): void => {
    if (news.kind === 'back') {
      hear.changed([]);
      hear.given();
    } else if (news.kind === 'given') hear.given();
    else if (news.name === name) hear.changed(news.dataSets);
  };
  // Pages agree on who holds the line only in a secure context (Web Locks); elsewhere each has one of its own.
  if (!('locks' in navigator)) {
    const source = lineFor([name], own);
    return () => source.close();
  }
  const page = Math.random().toString(36).slice(2);
  const channel = new BroadcastChannel(lockName);
  const say = (message: Message): void => channel.postMessage(message);
  const here = (): void => say({ kind: 'watching', page, name });
  const gone = (): void => say({ kind: 'gone', page });
  channel.addEventListener('message', ({ data }: MessageEvent<Message>) => {
    if (data.kind === 'who') here();
    else if (data.kind !== 'watching' && data.kind !== 'gone') own(data);
  });
  const letGo = holdInTurn();
  here();
  // A page that is gone back to is the same page, so it begins again where it stopped.
  addEventListener('pagehide', gone);
  addEventListener('pageshow', here);
  return () => {
    removeEventListener('pagehide', gone);
    removeEventListener('pageshow', here);
    gone();
    letGo();
    channel.close();
  };
}
