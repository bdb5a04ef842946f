import { existsSync, readdirSync, readFileSync } from 'node:fs';
import path from 'node:path';
import { expect, test } from 'vitest';

const pages = [
  'README.md',
  'CONTRIBUTING.md',
  ...readdirSync('docs', { recursive: true, encoding: 'utf8' })
    .filter((file) => file.endsWith('.md'))
    .map((file) => path.join('docs', file)),
];
/** A file or folder of ours, as it is written in a text; what has a part to fill in is none. */
const named =
  /`((?:app|bench|core|demo|docs|e2e|engine|scripts|server|sources|stand-ins|testing)\/[\w./-]+)`/g;
/** What a page leads to beside it. */
const led = /\]\((?!https?:|#)([^)#\s]+)/g;

test('what the pages about this repository name and lead to is there', () => {
  const missing = pages.flatMap((page) => {
    const text = readFileSync(page, 'utf8');
    const places = [
      ...[...text.matchAll(named)].map(([, place = '']) => place),
      ...[...text.matchAll(led)].map(([, place = '']) => path.join(path.dirname(page), place)),
    ];
    return places.filter((place) => !existsSync(place)).map((place) => `${page}: ${place}`);
  });
  expect(missing).toEqual([]);
});
