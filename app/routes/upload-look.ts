import { z } from 'zod';
import { FileReading } from '#core/dataset/upload.ts';
import { problemOf } from '#core/value/problem/problem.ts';
import { guardedAction, postOnly, type Signed, to } from '#server/guard.ts';
import { readAside } from '#server/uploads/aside.ts';
import type { LookAnswer } from '../workroom/answers.ts';
import type { Route } from './+types/upload-look';

export const loader = postOnly;

const Body = z.object({ file: z.uuid(), reading: FileReading.optional() });

/** Reads an uploaded file through, for what it holds. Nothing is saved. */
export const action = guardedAction(
  to('build'),
  async ({ request }: Signed<Route.ActionArgs>): Promise<LookAnswer> => {
    const doing = 'reading the file';
    const body = Body.safeParse(await request.json().catch(() => null));
    if (!body.success) {
      const why = z.prettifyError(body.error);
      return { ok: false, problem: { code: 'bad-request', doing, why, mend: 'Correct it and try again.' } };
    }
    try {
      return { ok: true, seen: await readAside('look', body.data.file, body.data.reading) };
    } catch (thrown) {
      return { ok: false, problem: problemOf(thrown, doing) };
    }
  },
);
