import { EventEmitter } from 'node:events';
import { listen } from './listen.ts';

/* What has changed, told to the pages that are open. */

const changes = new EventEmitter().setMaxListeners(0);
const beatMs = 20_000;

/** Begins to hear of what changes records and of people who sign out; gives what ends it. */
export async function startHearing(): Promise<() => Promise<void>> {
  const [kept, signedOut] = await Promise.all([
    listen('slate_changed', (dataSet) => changes.emit('change', dataSet)),
    listen('slate_signed_out', (session) => changes.emit('signed out', session)),
  ]);
  return async () => {
    await Promise.all([kept(), signedOut()]);
  };
}

/** Open browsers of one person in this process; more than these have to ask for themselves. */
const mostStreams = 30;
const streams = new Map<string, number>();

/** Whose page it is. */
export interface Watcher {
  readonly userId: string;
  /** The session that it was opened in (see `sessionOf`). */
  readonly session: string;
  /** Whether the session still lasts. */
  readonly isSignedIn: () => Promise<boolean>;
}

/** A dashboard that somebody has open, under the name that its pages know it by. */
export interface Watched {
  readonly name: string;
  /** The data sets of it that show new records, for each data set whose records may change (see `followersOf`). */
  readonly followers: ReadonlyMap<string, readonly string[]>;
}

/**
 * A stream of server-sent events (HTML, 9.2) for the open pages of one browser: `changed`, with the name of a dashboard and those
 * of its data sets that show new records. After the server lost touch with its database the pages are told that all of them may
 * have. It ends with the session.
 */
export function changeStream(
  watched: readonly Watched[],
  { userId, session, isSignedIn }: Watcher,
  signal: AbortSignal,
): Response {
  const open = streams.get(userId) ?? 0;
  if (open >= mostStreams) return new Response('Too many open browsers.', { status: 429 });
  streams.set(userId, open + 1);
  const encoder = new TextEncoder();
  let close = (): void => undefined;
  const body = new ReadableStream<Uint8Array>({
    start(controller) {
      const send = (text: string): void => controller.enqueue(encoder.encode(text));
      const tell = (dataSet: string | null): void => {
        for (const { name, followers } of watched) {
          const dataSets =
            dataSet === null ? [...new Set([...followers.values()].flat())] : followers.get(dataSet);
          if (dataSets) send(`event: changed\ndata: ${JSON.stringify({ name, dataSets })}\n\n`);
        }
      };
      const end = (): void => {
        close();
        try {
          controller.close();
        } catch {
          // The reader has closed it already.
        }
      };
      const leave = (ended: string | null): void => {
        if (ended === session) end();
      };
      const beat = setInterval(() => {
        send(': here\n\n');
        // A session also ends by itself, and a notice may be missed; a database that is away ends none.
        isSignedIn().then(
          (lasts) => lasts || end(),
          () => undefined,
        );
      }, beatMs);
      changes.on('change', tell);
      changes.on('signed out', leave);
      close = () => {
        clearInterval(beat);
        changes.off('change', tell);
        changes.off('signed out', leave);
        streams.set(userId, (streams.get(userId) ?? 1) - 1);
        close = () => undefined;
      };
      signal.addEventListener('abort', end, { once: true });
      send('retry: 2000\n\n');
    },
    cancel: () => close(),
  });
  return new Response(body, {
    headers: { 'Content-Type': 'text/event-stream', 'Cache-Control': 'no-store', 'X-Accel-Buffering': 'no' },
  });
}
