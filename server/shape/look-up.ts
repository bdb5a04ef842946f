import pMap from 'p-map';
import type { PlannedMeasure } from '#core/ask/measure/calculation.ts';
import { type Meaning, type MeasuredPair, proposedMeanings } from '#core/dataset/meanings.ts';
import { likeness } from '#core/dataset/step/likeness.ts';
import type { StepOf } from '#core/dataset/step/schema.ts';
import { extend, totals } from '#core/plan/plan.ts';
import { planSteps } from '#core/plan/relation.ts';
import type { Cell } from '#core/value/field/value.ts';
import { ProblemError } from '#core/value/problem/problem.ts';
import { calledAt } from '#core/words/step.ts';
import { runPlan } from '../records/run.ts';
import { asideAtOnce, recordCount, relationAfter, type Shaping } from './shaping.ts';

export interface MatchFigures {
  readonly records: string;
  readonly matched: string;
  readonly unmatched: string;
  readonly several: string;
  /** Values without a match, and those with several, most frequent first. */
  readonly without: readonly { readonly value: Cell; readonly count: string }[];
  readonly withSeveral: readonly { readonly value: Cell; readonly count: string }[];
}

/** What a look-up would find, before it is applied: over all records. */
export async function matchesOf(
  shaping: Shaping,
  step: StepOf<'lookUp'>,
  steps: number,
): Promise<MatchFigures> {
  const before = relationAfter(shaping, steps);
  const asking = { doing: 'comparing the records', signal: shaping.signal };
  const looking: StepOf<'lookUp'> = {
    kind: 'lookUp',
    id: step.id,
    from: step.from,
    on: step.on,
    mode: 'count',
    take: [],
    order: [],
    as: ' matches',
  };
  const { clock } = shaping;
  const from = extend(before, planSteps(before.fields, [looking], before.inputs, shaping));
  const matches = ' matches';
  const is = (op: 'atLeast' | 'atMost', value: string): PlannedMeasure => ({
    ...recordCount,
    where: { field: matches, test: { op, value } },
  });
  const { records } = await runPlan(
    totals(from, clock.zone, [recordCount, is('atLeast', '1'), is('atLeast', '2')]),
    asking,
  );
  const [total, matched, several] = (records[0] ?? []).map((cell) => BigInt(String(cell ?? '0')));
  const examples = async (op: 'atLeast' | 'atMost', value: string): Promise<MatchFigures['without']> => {
    const [key] = step.on;
    if (!key) return [];
    const found = await runPlan(
      {
        ...totals(from, clock.zone, [recordCount]),
        where: { field: matches, test: { op, value } },
        by: [{ field: key.field }],
        order: [{ by: 'count', descending: true }],
        limit: 4,
      },
      asking,
    );
    return found.records.map(([each = null, n]) => ({ value: each, count: String(n ?? '0') }));
  };
  const none = (total ?? 0n) - (matched ?? 0n);
  const [without, withSeveral] = await Promise.all([
    none > 0n ? examples('atMost', '0') : [],
    (several ?? 0n) > 0n ? examples('atLeast', '2') : [],
  ]);
  return {
    records: String(total ?? 0n),
    matched: String(matched ?? 0n),
    unmatched: String(none),
    several: String(several ?? 0n),
    without,
    withSeveral,
  };
}

/**
 * Look-ups of the one match that find several for some records: a sentence for each, with examples. What a source cannot
 * tell just now stands in nobody's way.
 */
export async function severalMatches(shaping: Shaping): Promise<string[]> {
  const { steps = [], noun } = shaping.definition;
  const refused: string[] = [];
  for (const [at, step] of steps.entries()) {
    if (step.kind !== 'lookUp' || step.mode !== 'one' || step.off) continue;
    try {
      const { several, withSeveral } = await matchesOf(shaping, step, at);
      if (several === '0') continue;
      const examples = withSeveral.map(({ value }) => `“${value}”`).join(', ');
      refused.push(
        `Step ${at + 1} looks up the one match, and finds several for ${several} of the ${calledAt(steps, at, noun.many)}, such as for ${examples}: choose which, or another way`,
      );
    } catch (thrown) {
      if (!(thrown instanceof ProblemError)) throw thrown;
    }
  }
  return refused;
}

/** A field of ours whose values stand in a field of another data set: of the different ones, how many are there too. */
export type Near = MeasuredPair;

const nearMost = 16;

/**
 * Where a field could be looked up: fields of other data sets with the same meaning or name, or that identify their
 * records, by how many of our values are there too.
 */
export async function nearFields(shaping: Shaping, steps: number): Promise<Near[]> {
  const { id, world, clock } = shaping;
  const before = relationAfter(shaping, steps);
  const pairs = [...world].flatMap(([other, dataSet]) =>
    other === id || dataSet.inputs.some(({ required }) => required)
      ? []
      : dataSet.fields.flatMap((field) =>
          before.fields.flatMap((ours) => {
            const rank = likeness(ours, field, dataSet);
            return rank > 0 ? [{ dataSet: other, other: field.name, field: ours.name, rank }] : [];
          }),
        ),
  );
  const best = pairs.sort((a, b) => b.rank - a.rank).slice(0, nearMost);
  const measured = await pMap(
    best,
    async ({ dataSet, other, field }): Promise<Near | null> => {
      try {
        const only = planSteps(
          before.fields,
          [
            {
              kind: 'summarise',
              id: 'values',
              by: [{ field, as: 'value' }],
              measures: [{ name: 'n', calculation: { kind: 'count' } }],
            },
            { kind: 'where', id: 'filled', condition: { field: 'value', test: { op: 'filled' } } },
            {
              kind: 'lookUp',
              id: 'there',
              from: { dataSet },
              on: [{ field: 'value', other }],
              mode: 'any',
              take: [],
              order: [],
              as: 'there',
            },
          ],
          before.inputs,
          shaping,
        );
        const { records } = await runPlan(
          totals(extend(before, only), clock.zone, [
            {
              name: 'overlap',
              calculation: { kind: 'share', where: { field: 'there', test: { op: 'same', value: 'true' } } },
            },
          ]),
          { doing: 'comparing values', signal: shaping.signal },
        );
        return { dataSet, other, field, overlap: Number(records[0]?.[0] ?? 0) };
      } catch (thrown) {
        if (thrown instanceof ProblemError) return null;
        throw thrown;
      }
    },
    { concurrency: asideAtOnce, signal: shaping.signal },
  );
  const isKey = ({ dataSet, other }: Near): boolean => world.get(dataSet)?.key === other;
  // What identifies a record finds one match, where other fields may find many: it counts twice, and each data set stands once.
  const weight = (near: Near): number => near.overlap * (isKey(near) ? 2 : 1);
  const found = measured
    .filter((near): near is Near => near !== null && near.overlap > 0)
    .sort((a, b) => weight(b) - weight(a));
  return found
    .filter((near, at) => found.findIndex(({ dataSet }) => dataSet === near.dataSet) === at)
    .slice(0, 5);
}

/** What the fields could be said to stand for, by what is measured of all records' values. */
export const meaningsOf = async (shaping: Shaping): Promise<Meaning[]> =>
  proposedMeanings(
    shaping.definition,
    await nearFields(shaping, shaping.definition.steps?.length ?? 0),
    shaping.world,
  );
