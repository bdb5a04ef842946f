import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { safePath } from './safe-path.ts';

describe('where a sign-in leads', () => {
  test.each([
    ['/desk/skerry-sound/morning-brief?route=Holm&at=a', '/desk/skerry-sound/morning-brief?route=Holm&at=a'],
    ['/desk/skerry-sound', '/desk/skerry-sound'],
    ['/workroom/data-sets/1', '/workroom/data-sets/1'],
    ['/', '/'],
    ['/%09/elsewhere.example', '/'],
    ['/\t/elsewhere.example', '/'],
    ['/\n/elsewhere.example', '/'],
    ['//elsewhere.example', '/'],
    ['/\\elsewhere.example', '/'],
    ['\\/\\/elsewhere.example', '/'],
    ['https://elsewhere.example', '/'],
    ['/view/x/panes', '/'],
    ['/nowhere', '/'],
    ['/..//', '/'],
    ['/..//workroom/elsewhere.example', '/'],
    ['/.//desk/elsewhere.example', '/'],
    [null, '/'],
  ])('%j is %s', (to, path) => expect(safePath(to)).toBe(path));

  test('is always a page of this server, as a browser follows it', () => {
    const part = fc.constantFrom(
      '/',
      '\\',
      '\t',
      '\n',
      '%09',
      '//',
      'desk',
      'workroom',
      '@',
      ':',
      'elsewhere.example',
      '..',
      '?',
      '#',
      'http:',
    );
    fc.assert(
      fc.property(fc.array(part, { maxLength: 8 }), (parts) => {
        const url = new URL(safePath(parts.join('')), 'https://slate.example');
        expect(url.origin).toBe('https://slate.example');
        expect(url.pathname).toMatch(/^\/($|desk\/|workroom)/);
      }),
      { numRuns: 20_000 },
    );
  });
});
