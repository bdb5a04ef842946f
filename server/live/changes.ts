import { EventEmitter } from 'node:events';
import { listen } from './listen.ts';

/* What has changed, told to the pages that are open. */

const changes = new EventEmitter().setMaxListeners(0);
const beatMs = 20_000;

/** Begins to hear of new versions of kept records; gives what ends it. */
export const startHearing = (): Promise<() => Promise<void>> =>
  listen('slate_kept', (dataSet) => changes.emit('change', dataSet));

/**
 * A stream of server-sent events (HTML, 9.2) for one open page: `changed`, with the data sets of the page that have new
 * records. After the server lost touch with its database the page is told that all of them may have.
 */
export function changeStream(dataSets: ReadonlySet<string>, signal: AbortSignal): Response {
  const encoder = new TextEncoder();
  let close = (): void => undefined;
  const body = new ReadableStream<Uint8Array>({
    start(controller) {
      const send = (text: string): void => controller.enqueue(encoder.encode(text));
      const tell = (dataSet: string | null): void => {
        if (dataSet !== null && !dataSets.has(dataSet)) return;
        const ids = dataSet === null ? [...dataSets] : [dataSet];
        send(`event: changed\ndata: ${JSON.stringify(ids)}\n\n`);
      };
      const beat = setInterval(() => send(': here\n\n'), beatMs);
      changes.on('change', tell);
      close = () => {
        clearInterval(beat);
        changes.off('change', tell);
        close = () => undefined;
      };
      signal.addEventListener('abort', () => {
        close();
        try {
          controller.close();
        } catch {
          // The reader has closed it already.
        }
      });
      send('retry: 2000\n\n');
    },
    cancel: () => close(),
  });
  return new Response(body, {
    headers: { 'Content-Type': 'text/event-stream', 'Cache-Control': 'no-store', 'X-Accel-Buffering': 'no' },
  });
}
