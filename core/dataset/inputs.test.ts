import { expect, test } from 'vitest';
import { findInputs, inputNames } from './inputs.ts';

test('inputs are found by themselves, in order of first use, each once', () => {
  expect(
    inputNames(
      'SELECT * FROM sailings WHERE route_id = :route AND departs_at >= :from AND vessel_id = :route',
    ),
  ).toEqual(['route', 'from']);
});

test.each([
  ["a string holding ':no'", "SELECT ':no', :yes"],
  ["a doubled quote ''", "SELECT 'it''s :no', :yes"],
  ['an escape string', "SELECT E'\\':no', :yes"],
  ['a quoted name', 'SELECT ":no", :yes'],
  ['a dollar-quoted string', 'SELECT $tag$ :no $tag$, :yes'],
  ['a line comment', 'SELECT 1 -- :no\n, :yes'],
  ['nested block comments', 'SELECT /* :no /* :no */ :no */ :yes'],
  ['a cast', 'SELECT 1::integer, :yes'],
  ['a slice', 'SELECT a[1:no], :yes'],
])('a colon inside %s is no input', (_, text) => {
  expect(inputNames(text)).toEqual(['yes']);
});

test('the places found are those of the colon and of the end of the name', () => {
  expect(findInputs('a = :b_1')).toEqual([{ name: 'b_1', from: 4, to: 8 }]);
});

test('an unfinished comment or string ends the search without hanging', () => {
  expect(inputNames('SELECT /* :no')).toEqual([]);
  expect(inputNames(`SELECT ${"'".repeat(2001)} :x`).length).toBeLessThan(2);
});
