import { describe, expect, test } from 'vitest';
import type { TracePane } from './schema.ts';
import { type LaneEvent, shapeTrace, type TraceEvent } from './shape.ts';

const lane = (name: string, more: object = {}) => ({
  name,
  dataSet: '00000000-0000-4000-8000-000000000001',
  case: 'ref',
  at: 'at',
  fields: [],
  ...more,
});
const pane: TracePane = {
  kind: 'trace',
  id: 'trace',
  title: 'Trace',
  place: { x: 0, y: 0, w: 12, h: 12 },
  about: { meaning: 'passage', noun: 'passage' },
  lanes: [lane('Web'), lane('Gate', { link: 'https://gates.skerry.example/scans{?ref,from,to}' })],
  expects: [],
  span: 15,
};
const event = (lane: number, time: string | null, more: Partial<LaneEvent> = {}): LaneEvent => ({
  lane,
  at: time && `2026-11-27T${time}Z`,
  clock: null,
  cells: [],
  values: { ref: 'A&B/1' },
  ...more,
});
const now = new Date('2026-11-27T12:00:00Z');
const lines = (events: LaneEvent[], more: Partial<TracePane> = {}, at = now) =>
  shapeTrace({ ...pane, ...more }, events, at);
const eventsOf = (all: ReturnType<typeof lines>): TraceEvent[] => all.filter((line) => line.kind === 'event');

describe('a trace', () => {
  test('puts the events of all systems in one order, those of one instant by their lanes, those without a moment last', () => {
    const found = lines([event(1, '10:00:00'), event(1, null), event(0, '10:00:00'), event(0, '09:59:00.5')]);
    expect(found.map(({ lane, at }) => [lane, at?.slice(11)])).toEqual([
      [0, '09:59:00.5Z'],
      [0, '10:00:00Z'],
      [1, '10:00:00Z'],
      [1, undefined],
    ]);
  });

  test('tells of an event whose machine had the wrong clock, and that by it the event came before others', () => {
    const slow = event(1, '10:05:00', { clock: '2026-11-27T07:05:00Z' });
    const [, second] = eventsOf(lines([event(0, '10:00:00'), slow]));
    expect(second).toMatchObject({ clockBehind: 3 * 3600, isMisplaced: true });
    const right = event(1, '10:05:00', { clock: '2026-11-27T10:05:01Z' });
    expect(eventsOf(lines([right]))[0]).not.toHaveProperty('clockBehind');
  });

  test('marks a gap as long from what the analyst says, else the slowest tenth, and of a few only from a minute on', () => {
    const three = [event(0, '10:00:00'), event(0, '10:00:20'), event(0, '10:05:00')];
    const long = (more: Partial<TracePane>) => eventsOf(lines(three, more)).map(({ isLongGap }) => isLongGap);
    expect(long({})).toEqual([false, false, true]);
    expect(long({ longGap: 20 })).toEqual([false, true, true]);
    const many = Array.from({ length: 21 }, (_, at) =>
      event(0, `10:00:${String(at * 2 + (at > 10 ? 7 : 0)).padStart(2, '0')}`),
    );
    expect(eventsOf(lines(many)).flatMap(({ isLongGap }, at) => (isLongGap ? [at] : []))).toContain(11);
  });

  test('has a line for what was expected and did not come, and waits for what still may', () => {
    const expects = [{ lane: 1, after: 0, minutes: 30 }];
    const web = event(0, '10:00:00');
    expect(lines([web], { expects }).at(-1)).toMatchObject({
      kind: 'missing',
      at: '2026-11-27T10:30:00.000Z',
      isAwaited: false,
    });
    expect(lines([web], { expects }, new Date('2026-11-27T10:10:00Z')).at(-1)).toMatchObject({
      isAwaited: true,
    });
    expect(lines([web, event(1, '10:30:00')], { expects })).toHaveLength(2);
    // One that came before, or too late, is not the one that was expected.
    expect(lines([event(1, '09:00:00'), web, event(1, '11:00:00')], { expects })).toHaveLength(4);
    expect(lines([event(1, '09:00:00')], { expects })).toHaveLength(1);
  });

  test('leads to the deep tool at the right record and hour, and nowhere that is no web address', () => {
    const [, scan] = eventsOf(lines([event(0, '09:00:00'), event(1, '10:00:00')]));
    expect(scan?.link).toBe(
      'https://gates.skerry.example/scans?ref=A%26B%2F1&from=2026-11-27T09%3A45%3A00.000Z&to=2026-11-27T10%3A15%3A00.000Z',
    );
    const hostile = [lane('Web', { link: '{+ref}' })];
    const values = { ref: 'javascript:alert(1)' };
    expect(eventsOf(lines([event(0, '09:00:00', { values })], { lanes: hostile }))[0]?.link).toBeNull();
  });

  test('of fifty thousand events is laid out', () => {
    const many = Array.from({ length: 50_000 }, (_, at) => ({
      ...event(at % 2, null),
      at: new Date(Date.UTC(2026, 10, 1) + at * 1000).toISOString(),
    }));
    expect(lines(many)).toHaveLength(50_000);
  });
});
