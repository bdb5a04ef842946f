import { readdirSync, readFileSync } from 'node:fs';
import path from 'node:path';
import { expect, test } from 'vitest';
import { sourceKinds } from './registry.ts';

/* Nothing outside a kind's folder asks which kind a source is of. */

const root = path.join(import.meta.dirname, '..');
const files = ['core', 'engine', 'sources', 'server', 'app'].flatMap((folder) =>
  readdirSync(path.join(root, folder), { recursive: true, encoding: 'utf8' })
    .map((name) => `${folder}/${name}`)
    .filter((name) => /\.tsx?$/.test(name) && !/\.test\.tsx?$/.test(name)),
);
const naming = (pattern: RegExp, allowed: readonly string[]): string[] =>
  files
    .filter((name) => !allowed.some((start) => name.startsWith(start)))
    .filter((name) => pattern.test(readFileSync(path.join(root, name), 'utf8')));

/** What else these words mean: a dialect of SQL, kinds of requests; the databases of tests are of one kind. */
const otherMeanings: Partial<Record<string, readonly string[]>> = {
  postgres: ['core/sql/', 'server/test-'],
  http: ['core/', 'server/front-door.ts', 'app/workroom/'],
  intake: ['core/', 'server/kept/refresh.ts', 'server/store/tables.ts', 'server/store/intake.ts'],
  upload: ['core/', 'server/', 'app/workroom/', 'app/routes/'],
};

test.each(Object.keys(sourceKinds))('“%s” is named nowhere but in its own folder', (kind) => {
  expect(
    naming(new RegExp(`["'\`]${kind}["'\`]`), [`sources/${kind}/`, ...(otherMeanings[kind] ?? [])]),
  ).toEqual([]);
});

test('no place asks which kind a connection is of', () => {
  expect(naming(/connection\??\.kind\s*[!=]==|switch \(connection/, [])).toEqual([]);
});
