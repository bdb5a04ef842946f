import { z } from 'zod';
import { Input, Request } from '#core/dataset/schema.ts';
import { parseValue } from '#core/field/value.ts';
import { problemOf } from '#core/problem/problem.ts';
import { guardedAction, postOnly, type Signed } from '#server/guard.ts';
import { sourceAddress } from '#server/store/sources.ts';
import { tryRequest } from '#sources/postgres/try.ts';
import type { Route } from './+types/try';

export const loader = postOnly;

const Asked = z.object({ source: z.uuid(), request: Request, inputs: z.array(Input).max(50) });

/** Runs a request with its inputs' sample values, for its first records. Nothing is saved. */
export const action = guardedAction('build', async ({ request }: Signed<Route.ActionArgs>) => {
  const doing = 'trying the request';
  const asked = Asked.safeParse(await request.json().catch(() => null));
  if (!asked.success)
    return {
      ok: false as const,
      problem: {
        code: 'bad-request' as const,
        doing,
        why: z.prettifyError(asked.error),
        mend: 'Correct it and try again.',
      },
    };
  try {
    const { source, request: what, inputs } = asked.data;
    const bad = inputs
      .map((input) => ({ input, read: input.sample ? parseValue(input.type, input.sample) : null }))
      .find(({ read }) => read && !read.ok);
    if (bad?.read && !bad.read.ok)
      return {
        ok: false as const,
        problem: {
          code: 'bad-request' as const,
          doing,
          why: `the sample of “${bad.input.name}”: ${bad.read.why}`,
          mend: 'Give a sample value of its type.',
        },
      };
    const unset = inputs.find(({ required, sample }) => required && !sample);
    if (unset)
      return {
        ok: false as const,
        problem: {
          code: 'bad-request' as const,
          doing,
          why: `the input “${unset.name}” has no sample value`,
          mend: 'Give it one, to design with. It never reaches a reader’s page.',
        },
      };
    const values = Object.fromEntries(
      inputs.map(({ name, type, sample }) => [name, { type, value: sample || null }]),
    );
    const tried = await tryRequest(what, {
      source,
      address: await sourceAddress(source),
      inputs: values,
      signal: request.signal,
    });
    return { ok: true as const, tried };
  } catch (thrown) {
    return { ok: false as const, problem: problemOf(thrown, doing) };
  }
});
