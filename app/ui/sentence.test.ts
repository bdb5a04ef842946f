import { createElement } from 'react';
import { renderToStaticMarkup } from 'react-dom/server';
import { expect, test } from 'vitest';
import { Sentence } from './sentence.tsx';

const slot = (text: string) => ({ key: text, text, control: createElement('i', null, text) });
const words = (text: string) => ({ key: text, text });
const drawn = (...parts: (ReturnType<typeof slot> | ReturnType<typeof words>)[]): string =>
  renderToStaticMarkup(createElement(Sentence, { parts }));

test('marks stay with the control before them, and are said once', () => {
  const html = drawn(slot('All routes'), words(', departing '), slot('today'), words('.'));
  expect(html).toContain('<i>All routes</i>,</span>');
  expect(html).toContain('<i>today</i>.</span>');
  expect(html.replaceAll(/<[^>]+>/g, '')).toBe('All routes, departing today.');
});

test('words without a mark, and marks that follow words, stay as they are', () => {
  const parts = [words('Draw '), slot('columns'), words(' of sailings'), words(', by day'), slot('today')];
  expect(drawn(...parts).replaceAll(/<[^>]+>/g, '')).toBe('Draw columns of sailings, by daytoday');
  expect(drawn(...parts)).not.toContain('</i>,');
});
