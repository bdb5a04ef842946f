import { readdirSync, readFileSync } from 'node:fs';
import path from 'node:path';
import { expect, test } from 'vitest';
import { kinds } from './kinds.ts';

/* Nothing outside a kind's folders asks which kind a pane is of. */

const root = path.join(import.meta.dirname, '../..');
const searched = ['core', 'engine', 'sources', 'server', 'app'];

/** Where a kind may be named: its folders, the pictures of made-up data that tests share, and what follows. */
const own = (kind: string): string[] => [`core/pane/kinds/${kind}/`, `app/panes/${kind}/`, 'core/testing/'];
/** "table" is also what a request for one table of a database is called, and what a database calls it. */
const otherMeanings: Partial<Record<string, readonly string[]>> = {
  table: [
    'sources/',
    'core/dataset/',
    'core/sql/relation.ts',
    'engine/random-steps.ts',
    'app/workroom/data-set-',
    'app/routes/source.tsx',
    'app/routes/data-set-new.tsx',
  ],
};

const files = searched.flatMap((folder) =>
  readdirSync(path.join(root, folder), { recursive: true, encoding: 'utf8' })
    .map((name) => `${folder}/${name}`)
    .filter((name) => /\.(tsx?|css)$/.test(name) && !/\.test\.tsx?$/.test(name)),
);

test.each(Object.keys(kinds))('“%s” is named nowhere but in its own folders', (kind) => {
  const allowed = [...own(kind), ...(otherMeanings[kind] ?? [])];
  const naming = files
    .filter((name) => !allowed.some((start) => name.startsWith(start)))
    .filter((name) => new RegExp(`["'\`]${kind}["'\`]`).test(readFileSync(path.join(root, name), 'utf8')));
  expect(naming).toEqual([]);
});
