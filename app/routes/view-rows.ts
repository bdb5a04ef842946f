import type { ReadableStream } from 'node:stream/web';
import type { RowsAnswer } from '#core/change/answer.ts';
import { problemOf } from '#core/value/problem/problem.ts';
import { guardedAction, postOnlyTo, type Signed, to } from '#server/guard.ts';
import { readAside } from '#server/uploads/aside.ts';
import { receiveFile } from '#server/uploads/files.ts';
import type { Route } from './+types/view-rows';

export const loader = postOnlyTo(to('act', 'the dashboard'));

/** Reads the rows of a spreadsheet that is the body of the request, for whoever is about to change records by them. Nothing is kept. */
export const action = guardedAction(
  to('act', 'the dashboard'),
  async ({ request }: Signed<Route.ActionArgs>): Promise<RowsAnswer> => {
    const doing = 'reading the spreadsheet';
    try {
      const { id } = await receiveFile(request.body as ReadableStream<Uint8Array> | null);
      return { ok: true, text: await readAside('rows', id) };
    } catch (thrown) {
      return { ok: false, problem: problemOf(thrown, doing) };
    }
  },
);
