import { z } from 'zod';
import { Input, Request } from '#core/dataset/schema.ts';
import { Field, FieldName } from '#core/field/field.ts';
import type { Cell } from '#core/field/value.ts';
import type { GroupsPlan } from '#core/plan/plan.ts';
import { type Problem, problemOf } from '#core/problem/problem.ts';
import { runPlan } from '#engine/postgres/engine.ts';
import { guardedAction, postOnly, type Signed } from '#server/guard.ts';
import { sampleInputs } from '#server/sample-inputs.ts';
import { sourceAddress } from '#server/store/sources.ts';
import { type Tried, tryRequest } from '#sources/postgres/try.ts';
import type { Route } from './+types/try';

export const loader = postOnly;

const Asked = z.object({
  source: z.uuid(),
  request: Request,
  inputs: z.array(Input).max(50),
  /** Asks for the values of one field instead of for records. */
  values: z.object({ field: FieldName, fields: z.array(Field).max(1600) }).optional(),
});

export type TryAnswer =
  | { readonly ok: true; readonly tried: Tried }
  | { readonly ok: true; readonly field: string; readonly values: Cell[] }
  | { readonly ok: false; readonly problem: Problem };

/** More different values than this are no states. */
const mostValues = 25;

/** Runs a request with its inputs' sample values, for its first records or the values of a field. Nothing is saved. */
export const action = guardedAction(
  'build',
  async ({ request: asking }: Signed<Route.ActionArgs>): Promise<TryAnswer> => {
    const doing = 'trying the request';
    const asked = Asked.safeParse(await asking.json().catch(() => null));
    if (!asked.success) {
      const why = z.prettifyError(asked.error);
      return { ok: false, problem: { code: 'bad-request', doing, why, mend: 'Correct it and try again.' } };
    }
    try {
      const { source, request, inputs, values } = asked.data;
      const sampled = sampleInputs(inputs, doing);
      const about = { address: await sourceAddress(source), signal: asking.signal };
      if (!values)
        return { ok: true, tried: await tryRequest(request, { source, inputs: sampled, ...about }) };
      const plan: GroupsPlan = {
        kind: 'groups',
        from: { source, request, inputs: sampled, fields: values.fields },
        where: { all: [] },
        zone: 'UTC',
        by: [{ field: values.field }],
        measures: [{ name: 'count', calculation: { kind: 'count' } }],
        order: [{ by: 'count', descending: true }],
        limit: mostValues,
      };
      const { records } = await runPlan(plan, { ...about, doing: `finding the values of ${values.field}` });
      return { ok: true, field: values.field, values: records.map(([value = null]) => value) };
    } catch (thrown) {
      return { ok: false, problem: problemOf(thrown, doing) };
    }
  },
);
