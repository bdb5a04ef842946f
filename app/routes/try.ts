import { z } from 'zod';
import { Input, Request } from '#core/dataset/schema.ts';
import type { Relation } from '#core/plan/plan.ts';
import { Field } from '#core/value/field/field.ts';
import { type Problem, ProblemError, problemOf } from '#core/value/problem/problem.ts';
import { guardedAction, postOnly, type Signed, to } from '#server/guard.ts';
import { runPlan } from '#server/records/run.ts';
import { sampleInputs } from '#server/sample-inputs.ts';
import { openSource } from '#server/sources/open.ts';
import type { Trial } from '#sources/kind.ts';
import type { TryAnswer } from '../workroom/answers.ts';
import type { Route } from './+types/try';

export const loader = postOnly;

const Body = z.object({
  source: z.uuid(),
  request: Request,
  inputs: z.array(Input).max(50),
  /** The data set whose kept records are asked for, with its fields; without it the source is asked. */
  kept: z.uuid().optional(),
  fields: z.array(Field).max(1600).default([]),
  /** What the request leaves open is found from the answer. */
  find: z.boolean().default(false),
});

const recordsTried = 50;
/** A try that takes longer than this is stopped. */
const mostMs = 30_000;

/** The first records that are kept. */
async function tryKept(from: Relation, request: Request, signal: AbortSignal): Promise<Trial> {
  const { records, took } = await runPlan(
    {
      kind: 'records',
      from,
      where: { all: [] },
      zone: 'UTC',
      fields: from.fields.map(({ name }) => name),
      order: [],
      offset: 0,
      limit: recordsTried + 1,
    },
    { doing: 'reading kept records', signal },
  );
  return {
    request,
    fields: from.fields,
    records: records.slice(0, recordsTried),
    took,
    more: records.length > recordsTried,
  };
}

const tooLate = (doing: string): Problem => ({
  code: 'time-out',
  doing,
  why: `it took longer than ${mostMs / 1000} s`,
  mend: 'Ask for less, or keep the records, which are then fetched without anybody waiting.',
});

/** Runs a request with its inputs' sample values, for its first records. Nothing is saved. */
export const action = guardedAction(
  to('build'),
  async ({ request: asking }: Signed<Route.ActionArgs>): Promise<TryAnswer> => {
    const doing = 'trying the request';
    const body = Body.safeParse(await asking.json().catch(() => null));
    if (!body.success) {
      const why = z.prettifyError(body.error);
      return { ok: false, problem: { code: 'bad-request', doing, why, mend: 'Correct it and try again.' } };
    }
    const late = AbortSignal.timeout(mostMs);
    const signal = AbortSignal.any([asking.signal, late]);
    try {
      const { source, request, inputs, kept, fields, find } = body.data;
      const sampled = sampleInputs(inputs, doing);
      if (request.kind === 'of')
        throw new ProblemError({
          code: 'bad-request',
          doing,
          why: 'its records are those of another data set',
          mend: 'Look at them on the page of its steps.',
        });
      const from: Relation = {
        source,
        request: kept === undefined ? request : { kind: 'kept', name: kept },
        inputs: sampled,
        fields,
      };
      if (request.kind === 'upload') return { ok: true, tried: await tryKept(from, request, signal) };
      const kind = await openSource(source);
      return { ok: true, tried: await kind.try({ request, inputs: sampled, signal, find }) };
    } catch (thrown) {
      if (late.aborted) return { ok: false, problem: tooLate(doing) };
      return { ok: false, problem: problemOf(thrown, doing) };
    }
  },
);
