import type { ReadableStream } from 'node:stream/web';
import { problemOf } from '#core/value/problem/problem.ts';
import { guardedAction, postOnly, type Signed, to } from '#server/guard.ts';
import { receiveFile } from '#server/uploads/files.ts';
import type { ReceiveAnswer } from '../workroom/answers.ts';
import type { Route } from './+types/upload-receive';

export const loader = postOnly;

/** Takes a file in, as the body of the request, streamed to disk. */
export const action = guardedAction(
  to('build'),
  async ({ request }: Signed<Route.ActionArgs>): Promise<ReceiveAnswer> => {
    const doing = 'taking the file in';
    try {
      const { id, size } = await receiveFile(request.body as ReadableStream<Uint8Array> | null);
      return { ok: true, file: id, size };
    } catch (thrown) {
      return { ok: false, problem: problemOf(thrown, doing) };
    }
  },
);
