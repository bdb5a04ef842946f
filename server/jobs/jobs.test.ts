import { expect, test } from 'vitest';
import { filesNaming } from '#testing/naming.ts';
import { jobs } from './jobs.ts';

test.each(jobs)('“$name” is named nowhere but in its own file', ({ name }) => {
  expect(filesNaming(name, [`server/jobs/${name}.ts`])).toEqual([]);
});
