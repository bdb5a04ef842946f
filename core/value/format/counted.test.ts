import { expect, test } from 'vitest';
import { allCounted, counted, someOf } from './counted.ts';

test('one thing is said as one, others as several', () => {
  expect([0, 1, '1', 1n, 2200, '123456789012345678901'].map((count) => counted(count, 'record'))).toEqual([
    '0 records',
    '1 record',
    '1 record',
    '1 record',
    '2,200 records',
    '123,456,789,012,345,678,901 records',
  ]);
  expect(counted(1, 'person', 'people')).toBe('1 person');
  expect(counted(3, 'person', 'people')).toBe('3 people');
});

test('some of many are said with their verb', () => {
  expect(someOf('1', 'sailings', 'has no berth', 'have no berth')).toBe('1 of the sailings has no berth');
  expect(someOf('1200', 'sailings', 'has no berth', 'have no berth')).toBe(
    '1,200 of the sailings have no berth',
  );
});

test('all of some are said as they are', () => {
  expect(['0', '1', '2200'].map((count) => allCounted(count, 'sailing', 'sailings'))).toEqual([
    'no sailings',
    'the only sailing',
    'all 2,200 sailings',
  ]);
});
