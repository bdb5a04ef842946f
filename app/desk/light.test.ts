import { existsSync, readFileSync } from 'node:fs';
import path from 'node:path';
import { expect, test } from 'vitest';

/* What a reader's browser has to load before a dashboard answers to them: what is only needed to check briefs stays out. */

const folders = { '#core/': 'core/', '#server/': 'server/' };

/** The modules that a file brings with it at once; types and what comes later are not. */
function imports(file: string): string[] {
  const text = readFileSync(file, 'utf8');
  return [...text.matchAll(/^(?:import|export)\s+(?!type\b)([^;]*?)from\s+'([^']+)';/gm)].flatMap(
    ([, names = '', from = '']) => {
      const parts = names.replace(/[{}]/g, '').split(',');
      const isTypes = names.trim().startsWith('{') && parts.every((part) => /^\s*(type\s.*)?$/.test(part));
      return isTypes ? [] : [from];
    },
  );
}

/** How each module comes to be loaded with a file, from it on. */
function loadedWith(start: string): Map<string, readonly string[]> {
  const ways = new Map<string, readonly string[]>([[start, [start]]]);
  for (const [file, way] of ways)
    for (const from of existsSync(file) ? imports(file) : []) {
      const [folder] = Object.entries(folders).filter(([name]) => from.startsWith(name));
      const target = folder
        ? from.replace(...folder)
        : from.startsWith('.')
          ? path.posix.join(path.posix.dirname(file), from)
          : from;
      if (!ways.has(target)) ways.set(target, [...way, target]);
    }
  return ways;
}

test.each(['zod', 'apexcharts', 'react-markdown', '@codemirror/view', 'react-day-picker'])(
  '%s does not come at once with a dashboard',
  (name) => {
    expect(loadedWith('app/desk/dashboard-page.tsx').get(name)).toBeUndefined();
  },
);

test('what does come is seen', () => {
  expect(loadedWith('app/desk/dashboard-page.tsx').get('core/value/format/format.ts')).toBeDefined();
});
