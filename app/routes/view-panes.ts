import { setMaxListeners } from 'node:events';
import { createReadableStreamFromReadable } from '@react-router/node';
import { delaysId, pickedId, scopeCountId } from '#core/dashboard/pane/result.ts';
import { gatherWrites } from '#server/gather-writes.ts';
import { guardedLoader, type Signed, to } from '#server/guard.ts';
import { delaysOf } from '#server/panes/delays.ts';
import { withPicked } from '#server/panes/picked.ts';
import { runPane } from '#server/panes/run.ts';
import { countScope } from '#server/panes/shown.ts';
import { openForView } from '#server/panes/view-request.ts';
import type { Route } from './+types/view-panes';

/** The results of the panes asked for, one JSON text a line, each as soon as it is there (NDJSON). */
export const loader = guardedLoader(
  to('read', 'the dashboard'),
  async ({ params, request, user, context: asking }: Signed<Route.LoaderArgs>) => {
    const { opened, params: query } = await openForView(params.id, request, user, asking);
    const { context } = opened;
    const wanted = new Set((query.get('_panes') ?? '').split(','));
    const panes = context.dashboard.panes.filter(({ id }) => wanted.has(id));
    const stop = new AbortController();
    // Each pane listens for the end of the whole.
    setMaxListeners(0, stop.signal);
    request.signal.addEventListener('abort', () => stop.abort());
    const body = gatherWrites();
    // The reader has left, or moved on: what nobody else waits for is cancelled at the source.
    body.once('close', () => stop.abort());
    // Whoever reads is told by the stream that they read; one that has left is told nothing.
    body.on('error', () => undefined);
    const send = (id: string, result: unknown): void => {
      if (!stop.signal.aborted) body.write(`${JSON.stringify({ id, result })}\n`);
    };
    const sendAll = async (): Promise<void> => {
      const known = withPicked(context, stop.signal);
      const running = panes.map(async (pane) =>
        send(
          pane.id,
          await runPane({
            pane,
            context: await known,
            signal: stop.signal,
            onPartial: (partial) => send(pane.id, partial),
          }),
        ),
      );
      if (wanted.has(scopeCountId))
        running.push(countScope(context, stop.signal).then((count) => send(scopeCountId, count)));
      if (wanted.has(pickedId)) running.push(known.then(({ picked }) => send(pickedId, picked ?? null)));
      await Promise.all(running);
      // What the panes found out about their sources is known only now.
      if (wanted.has(delaysId)) send(delaysId, await delaysOf(context));
      if (!stop.signal.aborted) body.end();
    };
    sendAll().catch((error) => body.destroy(error));
    return new Response(createReadableStreamFromReadable(body), {
      headers: { 'Content-Type': 'application/x-ndjson', 'Cache-Control': 'no-store' },
    });
  },
);
