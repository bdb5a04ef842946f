import { z } from 'zod';
import { Condition } from '#core/ask/condition/schema.ts';
import { Check, DataSet } from '#core/dataset/schema.ts';
import { Step } from '#core/dataset/step/schema.ts';
import { FieldName } from '#core/value/field/field.ts';
import { problemOf } from '#core/value/problem/problem.ts';
import { failingRecords } from '#server/checks/run.ts';
import { guardedAction, postOnly, type Signed, to } from '#server/guard.ts';
import { askerOf } from '#server/people/asker.ts';
import { insideOf } from '#server/shape/inside.ts';
import { matchesOf, meaningsOf, nearFields } from '#server/shape/look-up.ts';
import { profileAfter } from '#server/shape/profile.ts';
import { alikeAfter, countWhere, figuresAfter, recordsAfter, valuesAfter } from '#server/shape/records.ts';
import type { Shaping } from '#server/shape/shaping.ts';
import { traceOf } from '#server/shape/trace.ts';
import { allDataSets, worldOf } from '#server/store/data-sets.ts';
import { zoneOf } from '#server/store/zone.ts';
import type { ShapeAnswer } from '../workroom/answers.ts';
import type { Route } from './+types/shape';

export const loader = postOnly;

const steps = z.int().min(0).max(100);
const Body = z.object({
  id: z.uuid(),
  definition: DataSet,
  want: z.discriminatedUnion('kind', [
    z.object({ kind: z.literal('records'), steps, page: z.int().min(1).max(100_000) }),
    z.object({ kind: z.literal('figures'), steps }),
    z.object({ kind: z.literal('profile'), steps, fields: z.array(FieldName).min(1).max(60) }),
    z.object({ kind: z.literal('matches'), steps, step: Step }),
    z.object({ kind: z.literal('near'), steps }),
    z.object({ kind: z.literal('meanings'), steps }),
    z.object({ kind: z.literal('alike'), steps }),
    z.object({ kind: z.literal('values'), steps, field: FieldName, find: z.string().max(200) }),
    z.object({ kind: z.literal('count'), steps, where: Condition }),
    z.object({ kind: z.literal('failing'), steps, check: Check }),
    z.object({ kind: z.literal('inside'), steps, field: FieldName }),
    z.object({
      kind: z.literal('trace'),
      steps,
      record: z.record(FieldName, z.string().max(100_000).nullable()),
    }),
  ]),
});

/** What a data set's records are after some of its steps, with the steps as they are on the page. Nothing is saved. */
export const action = guardedAction(
  to('build'),
  async ({ request, user }: Signed<Route.ActionArgs>): Promise<ShapeAnswer> => {
    const doing = 'trying the steps';
    const body = Body.safeParse(await request.json().catch(() => null));
    if (!body.success) {
      const why = z.prettifyError(body.error);
      return { ok: false, problem: { code: 'bad-request', doing, why, mend: 'Correct the step.' } };
    }
    try {
      const { id, definition, want } = body.data;
      const refers = want.kind === 'near' || want.kind === 'matches' || want.kind === 'meanings';
      const [world, zone] = await Promise.all([
        refers
          ? allDataSets().then((all) => new Map(all.map((each) => [each.id, each.definition])))
          : worldOf(definition),
        zoneOf(id),
      ]);
      const shaping: Shaping = {
        id,
        definition,
        world,
        clock: { now: new Date(), zone },
        person: askerOf(user),
        signal: request.signal,
      };
      switch (want.kind) {
        case 'records':
          return {
            ok: true,
            kind: want.kind,
            found: await recordsAfter(shaping, want.steps, want.page),
          };
        case 'figures':
          return { ok: true, kind: want.kind, found: await figuresAfter(shaping, want.steps) };
        case 'profile':
          return {
            ok: true,
            kind: want.kind,
            found: await profileAfter(shaping, want.steps, want.fields),
          };
        case 'matches': {
          if (want.step.kind !== 'lookUp') throw new TypeError('only a look-up has matches');
          return { ok: true, kind: want.kind, found: await matchesOf(shaping, want.step, want.steps) };
        }
        case 'near':
          return { ok: true, kind: want.kind, found: await nearFields(shaping, want.steps) };
        case 'meanings':
          return { ok: true, kind: want.kind, found: await meaningsOf(shaping) };
        case 'alike':
          return { ok: true, kind: want.kind, found: await alikeAfter(shaping, want.steps) };
        case 'values':
          return { ok: true, kind: want.kind, found: await valuesAfter(shaping, want.steps, want) };
        case 'count':
          return { ok: true, kind: want.kind, found: await countWhere(shaping, want.where) };
        case 'failing': {
          const about = { id, definition, now: shaping.clock.now };
          return {
            ok: true,
            kind: want.kind,
            found: await failingRecords(about, want.check, request.signal),
          };
        }
        case 'inside':
          return { ok: true, kind: want.kind, found: await insideOf(shaping, want.steps, want.field) };
        case 'trace':
          return { ok: true, kind: want.kind, found: await traceOf(shaping, want.steps, want.record) };
      }
    } catch (thrown) {
      return { ok: false, problem: problemOf(thrown, doing) };
    }
  },
);
