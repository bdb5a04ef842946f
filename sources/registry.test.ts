import { expect, test } from 'vitest';
import { filesNaming, filesWith } from '#testing/naming.ts';
import { sourceKinds } from './registry.ts';

/* Nothing outside a kind's folder asks which kind a source is of. */

/** What else these words mean: kinds of requests, and a scheme of signing in. */
const otherMeanings: Partial<Record<string, readonly string[]>> = {
  'follow-ups': ['core/', 'app/workroom/requests/', 'sources/registry.ts'],
  http: ['core/', 'server/front-door.ts', 'server/results/', 'app/workroom/'],
  intake: ['core/', 'server/kept/refresh.ts', 'server/store/tables/sources.ts', 'server/store/intake.ts'],
  upload: ['core/', 'server/', 'app/workroom/', 'app/routes/'],
};

test.each(Object.keys(sourceKinds))('“%s” is named nowhere but in its own folder', (kind) => {
  expect(filesNaming(kind, [`sources/${kind}/`, ...(otherMeanings[kind] ?? [])])).toEqual([]);
});

test('no place asks which kind a connection is of', () => {
  expect(filesWith(/connection\??\.kind\s*[!=]==|switch \(connection/)).toEqual([]);
});
