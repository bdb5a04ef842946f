import fc from 'fast-check';
import { expect, test } from 'vitest';
import { stepFollowing } from '#core/dataset/step/follow-names.ts';
import { shape, stepMakes, stepReads } from '#core/dataset/step/kinds.ts';
import type { Field } from '#core/value/field/field.ts';
import { kindsOfSteps, otherDataSet, start, steps } from '../testing/random-steps.ts';

const other = '00000000-0000-4000-8000-000000000001';
const world = new Map([[other, otherDataSet('00000000-0000-4000-8000-000000000002', 'reading')]]);

test('a step of any kind reads a field by its new name, and makes what it made', () => {
  const seen = new Set<string>();
  for (let kind = 0; kind < kindsOfSteps; kind += 1)
    fc.assert(
      fc.property(steps(world, other, kind), (chain) => {
        const shaped = shape(start, chain, world);
        for (const [at, step] of chain.entries()) {
          const before = shaped.fields[at] ?? [];
          // Words that nothing else is called, and that an expression has to put into quotes.
          const to = 'the “new” "name"';
          for (const from of stepReads(step, before)) {
            const renamed = before.map(
              (field): Field => (field.name === from ? { ...field, name: to } : field),
            );
            const next = stepFollowing(step, from, to);
            const after = shape(renamed, [next], world);
            expect(after.problems, JSON.stringify(step)).toEqual([null]);
            expect(stepReads(next, renamed)).not.toContain(from);
            expect(stepReads(next, renamed)).toContain(to);
            // As many fields come of it, of the same types; but one that was read and made again is two now.
            if (!stepMakes(step, before).includes(from))
              expect(after.fields[1]?.map(({ type }) => type).sort()).toEqual(
                shaped.fields[at + 1]?.map(({ type }) => type).sort(),
              );
            seen.add(step.kind);
          }
        }
      }),
      { numRuns: 15 },
    );
  expect(seen.size).toBeGreaterThan(13);
});
