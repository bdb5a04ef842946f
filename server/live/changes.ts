import { EventEmitter } from 'node:events';
import { ProblemError } from '#core/value/problem/problem.ts';
import { askAgain } from '#engine/postgres/engine.ts';
import { askAgainThere } from '../records/there.ts';
import { noticedIds } from '../store/data-changed.ts';
import { takeTurn } from '../turns/in-turn.ts';
import { listen } from './listen.ts';

/* What has changed, told to the pages that are open. */

const changes = new EventEmitter().setMaxListeners(0);
const beatMs = 20_000;

/** Begins to hear of what changes records and of people who sign out; gives what ends it. */
export async function startHearing(): Promise<() => Promise<void>> {
  const [kept, given, signedOut] = await Promise.all([
    listen('slate_changed', (notice) => {
      askAgain();
      askAgainThere();
      changes.emit('change', notice === null ? null : noticedIds(notice));
    }),
    listen('slate_given', (person) => changes.emit('given', person)),
    listen('slate_signed_out', (session) => changes.emit('signed out', session)),
  ]);
  return async () => {
    await Promise.all([kept(), given(), signedOut()]);
  };
}

/** Ends every stream of this process; browsers ask again, of another. */
export const endStreams = (): void => void changes.emit('stop');

/** Whose page it is. */
export interface Watcher {
  readonly userId: string;
  /** The session that it was opened in (see `sessionOf`). */
  readonly session: string;
  /** Whether the session still lasts. */
  readonly isSignedIn: () => Promise<boolean>;
}

/** The turn of one more browser of a person; null where there are too many, which have to ask for themselves. */
async function turnOf(userId: string, signal: AbortSignal): Promise<(() => void) | null> {
  try {
    return await takeTurn('line', userId, signal);
  } catch (thrown) {
    if (thrown instanceof ProblemError && thrown.problem.code === 'too-much') return null;
    // Who counts them is away for a moment: that keeps nobody from hearing.
    return () => undefined;
  }
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
 * have. `given`: what the person has to follow up is otherwise. It ends with the session.
 */
export async function changeStream(
  watched: readonly Watched[],
  { userId, session, isSignedIn }: Watcher,
  signal: AbortSignal,
): Promise<Response> {
  const leaveTurn = await turnOf(userId, signal);
  if (!leaveTurn) return new Response('Too many open browsers.', { status: 429 });
  const encoder = new TextEncoder();
  let close = (): void => undefined;
  const body = new ReadableStream<Uint8Array>({
    start(controller) {
      const send = (text: string): void => controller.enqueue(encoder.encode(text));
      const tell = (ids: readonly string[] | null): void => {
        for (const { name, followers } of watched) {
          const changed = ids ? ids.flatMap((id) => followers.get(id) ?? []) : [...followers.values()].flat();
          const dataSets = [...new Set(changed)];
          // After touch was lost a page asks again whatever it shows.
          if (dataSets.length > 0 || ids === null)
            send(`event: changed\ndata: ${JSON.stringify({ name, dataSets })}\n\n`);
        }
      };
      const tellOwn = (person: string | null): void => {
        if (person === null || person === userId) send('event: given\ndata: \n\n');
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
      changes.on('given', tellOwn);
      changes.on('signed out', leave);
      changes.on('stop', end);
      close = () => {
        clearInterval(beat);
        changes.off('change', tell);
        changes.off('given', tellOwn);
        changes.off('signed out', leave);
        changes.off('stop', end);
        leaveTurn();
        close = () => undefined;
      };
      signal.addEventListener('abort', end, { once: true });
      send('retry: 2000\n\n');
      // It may have left while it waited for its turn.
      if (signal.aborted) end();
    },
    cancel: () => close(),
  });
  return new Response(body, {
    headers: { 'Content-Type': 'text/event-stream', 'Cache-Control': 'no-store', 'X-Accel-Buffering': 'no' },
  });
}
