import { expect, it } from 'vitest';
import { type Module, sharedFiles } from './fewer-files.ts';

const begins = (id: string, ...needs: string[]): Module => ({ id, size: 100, needs, begins: true });
const module = (id: string, size: number, ...needs: string[]): Module => ({ id, size, needs, begins: false });

/** The modules that are in one file with another, itself among them. */
function besideOf(files: ReadonlyMap<string, number>, id: string): string[] {
  return [...files].filter(([, number]) => number === files.get(id)).map(([other]) => other);
}

it('puts small modules into one file, though not all pages need each', () => {
  const files = sharedFiles([
    begins('desk', 'words', 'scroll'),
    begins('steps', 'words', 'scroll'),
    begins('guide', 'words'),
    module('words', 500),
    module('scroll', 500),
  ]);
  expect(besideOf(files, 'words')).toEqual(['words', 'scroll']);
});

it('leaves a large module to the pages that need it', () => {
  const files = sharedFiles([
    begins('desk', 'words', 'graph'),
    begins('steps', 'words', 'graph'),
    begins('guide', 'words'),
    module('words', 500),
    module('graph', 50_000),
  ]);
  expect(besideOf(files, 'words')).toEqual(['words']);
  expect(besideOf(files, 'graph')).toEqual(['graph']);
});

it('leaves out what one page alone needs, and what pages begin with', () => {
  const files = sharedFiles([
    begins('desk', 'words'),
    begins('later', 'words', 'own'),
    module('words', 500),
    module('own', 500),
  ]);
  expect([...files.keys()]).toEqual(['words']);
});

it('merges no two files that would need each other by way of a third', () => {
  const all = [
    begins('desk', 'first'),
    begins('steps', 'first'),
    begins('third', 'second'),
    module('first', 100, 'third'),
    module('second', 100),
  ];
  expect(besideOf(sharedFiles(all), 'first')).toEqual(['first']);
  const straight = all.map((each) => (each.id === 'first' ? { ...each, needs: ['second'] } : each));
  expect(besideOf(sharedFiles(straight), 'first')).toEqual(['first', 'second']);
});
