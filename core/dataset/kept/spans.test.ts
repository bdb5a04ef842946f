import { expect, test } from 'vitest';
import { joinSpans } from './spans.ts';

test('spans of what was and what is new hold both', () => {
  expect(
    joinSpans(
      { at: { least: '2026-01-01T00:00:00Z', greatest: '2026-02-01T00:00:00Z' } },
      { at: { least: '2025-12-31T00:00:00Z', greatest: '2026-01-15T00:00:00Z' } },
    ),
  ).toEqual({ at: { least: '2025-12-31T00:00:00Z', greatest: '2026-02-01T00:00:00Z' } });
});

test('a field that only one of them knows keeps its span', () => {
  const at = { least: '2026-01-01T00:00:00Z', greatest: '2026-02-01T00:00:00Z' };
  expect(joinSpans({}, { at })).toEqual({ at });
  expect(joinSpans({ at }, {})).toEqual({ at });
});
