import { fileNotedOf } from '#server/change/follow-up.ts';
import { guardedLoader, notFound, type Signed, to } from '#server/guard.ts';
import { openForView } from '#server/panes/view-request.ts';
import type { Route } from './+types/view-follow-up-file';

/** A file that was noted of a record that a pane shows. It is only ever stored by the browser, never shown: nobody has looked into it. */
export const loader = guardedLoader(
  to('read', 'the dashboard'),
  async ({ params, request, user, context }: Signed<Route.LoaderArgs>) => {
    const { opened, params: query } = await openForView(params.id, request, user, context);
    const file = await fileNotedOf(
      { pane: query.get('_pane') ?? '', key: (query.get('_key') ?? '').slice(0, 2000) },
      params.file,
      { deskId: opened.shown.desk.id, context: opened.context },
      request.signal,
    );
    if (!file) throw notFound('file');
    return new Response(new Uint8Array(file.bytes), {
      headers: {
        'Content-Type': 'application/octet-stream',
        'Content-Disposition': `attachment; filename*=UTF-8''${encodeURIComponent(file.name).replaceAll("'", '%27')}`,
        'Cache-Control': 'private, no-store',
        'X-Content-Type-Options': 'nosniff',
      },
    });
  },
);
