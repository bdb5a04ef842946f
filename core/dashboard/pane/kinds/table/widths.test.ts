import { expect, test } from 'vitest';
import { widthsOf, widthTexts } from './widths.ts';

test('widths go into an address and come out of it, whatever a field is called', () => {
  const widths = { vessel: 180, 'a=b': 60, 'Größe, m': 1200 };
  expect(widthsOf(widthTexts(widths))).toEqual(widths);
  expect(widthTexts({ vessel: 180.6 })).toEqual(['vessel=181']);
});

test('what is no width is left out', () => {
  expect(widthsOf(['vessel', 'vessel=', '=80', 'vessel=12', 'route=99999', 'state=-80', 'due=1e3'])).toEqual(
    {},
  );
  expect(widthsOf(undefined)).toEqual({});
});
