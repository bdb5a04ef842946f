import { expect, test } from 'vitest';
import { formatCycle } from './format.ts';

test('hours, weekdays and months are written as readers call them', () => {
  expect(['0', '13', '23'].map((at) => formatCycle(at, 'hourOfDay'))).toEqual(['00:00', '13:00', '23:00']);
  expect(['1', '7'].map((at) => formatCycle(at, 'weekday'))).toEqual(['Mon', 'Sun']);
  expect(['1', '12'].map((at) => formatCycle(at, 'monthOfYear'))).toEqual(['Jan', 'Dec']);
  expect(formatCycle(null, 'weekday')).toBe('—');
});
