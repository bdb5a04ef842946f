import { createReadableStreamFromReadable } from '@react-router/node';
import { isbot } from 'isbot';
import { renderToPipeableStream } from 'react-dom/server';
import { type AppLoadContext, type EntryContext, isRouteErrorResponse, ServerRouter } from 'react-router';
import { gatherWrites } from '#server/gather-writes.ts';
import { log } from '#server/log.ts';
import { pathWords } from '#server/request-log.ts';

/** Panes that take longer than this come through the page's own request instead of the first answer. */
export const streamTimeout = 40_000;

/** What a page failed by is for whoever looks after the installation; the person is told that it failed. */
export function handleError(error: unknown, { request }: { readonly request: Request }): void {
  // An address that leads nowhere is the reader's matter, and is in the log as it was answered.
  const answer = isRouteErrorResponse(error) ? error : null;
  if (request.signal.aborted || (answer && answer.status < 500)) return;
  const { message, stack } = error instanceof Error ? error : new Error(String(answer ? answer.data : error));
  log.error({ path: pathWords(new URL(request.url).pathname), why: message, stack }, 'a page failed');
}

export default function handleRequest(
  request: Request,
  status: number,
  headers: Headers,
  router: EntryContext,
  context: AppLoadContext,
): Promise<Response> {
  return new Promise((resolve, reject) => {
    const whole = isbot(request.headers.get('user-agent') ?? '');
    let answer = status;
    let sent = false;
    const ready = (): void => {
      sent = true;
      const body = gatherWrites();
      headers.set('Content-Type', 'text/html; charset=utf-8');
      resolve(new Response(createReadableStreamFromReadable(body), { headers, status: answer }));
      pipe(body);
    };
    const { pipe, abort } = renderToPipeableStream(
      <ServerRouter context={router} url={request.url} nonce={context.nonce} />,
      {
        nonce: context.nonce,
        ...(whole ? {} : { onShellReady: ready }),
        onAllReady() {
          clearTimeout(late);
          if (whole) ready();
        },
        onShellError: reject,
        onError(error: unknown) {
          answer = 500;
          if (sent && !request.signal.aborted) console.error(error);
        },
      },
    );
    const late = setTimeout(abort, streamTimeout + 1000).unref();
  });
}
