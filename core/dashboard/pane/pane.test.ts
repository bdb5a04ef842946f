import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { panes } from '#testing/skerry.ts';
import { arrange, placeByKey } from './arrange.ts';
import { differenceOf } from './difference.ts';
import type { Pane } from './schema.ts';
import { Pane as PaneSchema } from './schema.ts';
import { freePlace } from './suggest.ts';

test('a difference is exact, and blank where a side is', () => {
  expect(differenceOf('0.3', '0.1')).toEqual({ by: '0.2', ratio: '2', direction: 'up' });
  expect(differenceOf('5', '0')?.ratio).toBeNull();
  expect(differenceOf(null, '1')).toBeNull();
  expect(differenceOf('1', undefined)).toBeNull();
});

describe('panes on the sheet', () => {
  const overlapping = (all: readonly Pane[]): boolean =>
    all.some((a, i) =>
      all.some(
        ({ place: b }, j) =>
          i < j &&
          a.place.x < b.x + b.w &&
          b.x < a.place.x + a.place.w &&
          a.place.y < b.y + b.h &&
          b.y < a.place.y + a.place.h,
      ),
    );
  const size = fc.record({
    x: fc.integer({ min: -3, max: 14 }),
    y: fc.integer({ min: -2, max: 30 }),
    w: fc.integer({ min: 0, max: 15 }),
    h: fc.integer({ min: 0, max: 9 }),
  });

  test('never lie on each other nor leave the sheet, however they are moved', () => {
    fc.assert(
      fc.property(
        fc.array(fc.tuple(fc.constantFrom('card', 'causes', 'weeks', 'late'), size), { maxLength: 12 }),
        (moves) => {
          let all: Pane[] = [panes.card, panes.causes, panes.weeks, panes.late];
          for (const [id, place] of moves) all = arrange(all, id, place);
          if (moves.length > 0) expect(overlapping(all)).toBe(false);
          for (const pane of all) expect(PaneSchema.safeParse(pane).success).toBe(true);
        },
      ),
      { numRuns: 500 },
    );
  });

  test('move by arrow keys and resize with Shift, and stop at the edges', () => {
    const one = (place: Pane['place']): Pane[] => [{ ...panes.card, id: 'one', place }];
    const left = { x: 0, y: 0, w: 6, h: 4 };
    const right = { ...left, x: 6 };
    expect(placeByKey(one(left), 'one', 'ArrowLeft', false)).toEqual(left);
    expect(placeByKey(one(left), 'one', 'ArrowRight', false)).toEqual({ ...left, x: 1 });
    expect(placeByKey(one(right), 'one', 'ArrowRight', true)).toEqual(right);
    expect(placeByKey(one(left), 'one', 'x', false)).toBeNull();
  });

  test('that are stacked change places with Up and Down', () => {
    const stack: Pane[] = ['a', 'b', 'c'].map((id, index) => ({
      ...panes.card,
      id,
      place: { x: 0, y: index * 4, w: 6, h: 4 },
    }));
    const order = (all: readonly Pane[]): string =>
      [...all]
        .sort((a, b) => a.place.y - b.place.y)
        .map(({ id }) => id)
        .join('');
    const moved = (all: readonly Pane[], id: string, key: string): Pane[] => {
      const place = placeByKey(all, id, key, false);
      return place ? arrange(all, id, place) : [...all];
    };
    const once = moved(stack, 'a', 'ArrowDown');
    expect(order(once)).toBe('bac');
    expect(order(moved(once, 'a', 'ArrowDown'))).toBe('bca');
    expect(order(moved(moved(once, 'a', 'ArrowDown'), 'a', 'ArrowDown'))).toBe('bca');
    expect(order(moved(stack, 'c', 'ArrowUp'))).toBe('acb');
    expect(order(moved(stack, 'a', 'ArrowUp'))).toBe('abc');
  });

  test('that are added take the first free place', () => {
    expect(freePlace([panes.card], { w: 6, h: 4 })).toEqual({ x: 6, y: 0, w: 6, h: 4 });
    expect(freePlace([], { w: 3, h: 3 })).toEqual({ x: 0, y: 0, w: 3, h: 3 });
  });
});
