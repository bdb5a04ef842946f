import { expect, test } from 'vitest';
import { outageSentence } from './outage.ts';

const clock = { now: new Date('2026-11-27T16:00:00Z'), zone: 'America/St_Johns' };
const outage = {
  source: 'Fuel cards',
  since: '2026-11-27T15:53:00Z',
  dataSets: [
    { id: 'a', many: 'fills' },
    { id: 'b', many: 'cards' },
    { id: 'c', many: 'fills' },
  ],
};

test('an outage says since when, and what is shown from before it, in the zone of the desk', () => {
  expect(outageSentence(outage, '2026-11-27T15:20:00Z', clock)).toBe(
    'Fuel cards has not answered since 12:23; the fills and cards shown are as of 11:50.',
  );
  expect(outageSentence({ ...outage, dataSets: [] }, null, clock)).toBe(
    'Fuel cards has not answered since 12:23.',
  );
  // What began on another day names it.
  expect(outageSentence({ ...outage, since: '2026-11-26T15:53:00Z' }, null, clock)).toBe(
    'Fuel cards has not answered since 26 Nov, 12:23.',
  );
});
