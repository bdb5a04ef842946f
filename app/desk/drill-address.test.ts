import fc from 'fast-check';
import { expect, test } from 'vitest';
import { type Drill, drillFromText, drillToText } from './drill-address.ts';

const cell = fc.oneof(fc.string(), fc.integer(), fc.boolean(), fc.constant(null));
const drill: fc.Arbitrary<Drill> = fc.oneof(
  fc.record({
    kind: fc.constant('record' as const),
    title: fc.string(),
    pane: fc.string(),
    key: fc.string(),
  }),
  fc.record({
    kind: fc.constant('behind' as const),
    title: fc.string(),
    cell: fc.record({ pane: fc.string(), values: fc.array(cell, { maxLength: 2 }) }),
  }),
);

test('a step of a drill reads back as it was written', () => {
  fc.assert(
    fc.property(drill, (each) => {
      expect(drillFromText(drillToText(each))).toEqual(each);
    }),
  );
});

test('an address edited by hand gives no step, and never throws', () => {
  fc.assert(
    fc.property(fc.oneof(fc.string(), fc.json()), (text) => {
      const step = drillFromText(text);
      if (step) expect(['behind', 'record']).toContain(step.kind);
    }),
    { numRuns: 2000 },
  );
  for (const text of [
    '',
    '[]',
    '["b"]',
    '["r","t",1,"k"]',
    '["b","t",null]',
    '["b","t",{}]',
    '{"kind":"record"}',
  ])
    expect(drillFromText(text)).toBeNull();
});
