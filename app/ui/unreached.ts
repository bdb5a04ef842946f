/*
 * What a page asks for or sends may not reach the server. The framework has no place for that: it would show its error page, and what was
 * typed would be gone. So the page waits for what it asked for, and is told of what it sent.
 */

/** `waiting`: something that was asked for has not come; `unsent`: something that was sent did not arrive, as far as can be told. */
export type Unreached = 'waiting' | 'unsent' | null;

let now: Unreached = null;
let waiting = 0;
const listeners = new Set<() => void>();

function become(next: Unreached): void {
  now = next;
  for (const each of listeners) each();
}

export const unreachedNow = (): Unreached => now;

export function onUnreached(listener: () => void): () => void {
  listeners.add(listener);
  return () => listeners.delete(listener);
}

export const closeUnreached = (): void => become(waiting > 0 ? 'waiting' : null);

const tryAgain = 'slate:try-again';
/** Asks again at once for what is waited for. */
export const tryNow = (): void => void dispatchEvent(new Event(tryAgain));

const pauseMs = 3_000;

/** Until it is worth asking again. Throws once nobody waits for the answer any more. */
function pause(signal: AbortSignal | null | undefined): Promise<void> {
  return new Promise((resolve, reject) => {
    const end = (): void => {
      clearTimeout(timer);
      for (const event of ['online', tryAgain]) removeEventListener(event, end);
      signal?.removeEventListener('abort', end);
      if (signal?.aborted) reject(signal.reason);
      else resolve();
    };
    const timer = setTimeout(end, pauseMs);
    for (const event of ['online', tryAgain]) addEventListener(event, end);
    signal?.addEventListener('abort', end);
  });
}

/** Whether whoever stands before the server answered for it, since it could not. */
const isForAnother = ({ status, headers }: Response): boolean =>
  [502, 503, 504].includes(status) && !headers.has('X-Remix-Response');

/** The answer, or null where none came. Throws where nobody waits for it any more. */
async function answerOf(
  asking: Promise<Response>,
  signal: AbortSignal | null | undefined,
): Promise<Response | null> {
  try {
    const answer = await asking;
    return isForAnother(answer) ? null : answer;
  } catch (thrown) {
    if (signal?.aborted) throw thrown;
    return null;
  }
}

/** What the framework takes for an action that has nothing to say. */
const nothingSaid = (): Response => new Response(null, { status: 204 });

async function asked(ask: typeof fetch, input: RequestInfo | URL, init: RequestInit = {}): Promise<Response> {
  const { method = 'GET', signal } = init;
  const isSending = method !== 'GET';
  const first = await answerOf(ask(input, init), signal);
  if (first) {
    if (isSending && now === 'unsent') closeUnreached();
    return first;
  }
  if (isSending) {
    become('unsent');
    return nothingSaid();
  }
  waiting += 1;
  become(now ?? 'waiting');
  try {
    for (;;) {
      await pause(signal);
      const answer = await answerOf(ask(input, init), signal);
      if (answer) return answer;
    }
  } finally {
    waiting -= 1;
    if (now === 'waiting') closeUnreached();
  }
}

/** The framework’s requests of its own have addresses that end so. */
const isFramework = (input: RequestInfo | URL): boolean =>
  input instanceof URL && input.origin === location.origin && input.pathname.endsWith('.data');

/** Lets the framework’s requests wait. All others fail as they always do; whoever makes them says what that means. */
export function waitForServer(): void {
  const ask = window.fetch.bind(window);
  window.fetch = (input, init) => (isFramework(input) ? asked(ask, input, init) : ask(input, init));
}
