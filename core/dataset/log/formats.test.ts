import { describe, expect, test } from 'vitest';
import { groupNames, guessFormat, marksOf, patternProblem, re2Pattern } from './formats.ts';

describe('the format of a log', () => {
  test.each([
    ['json', '{"at":"2026-11-23T06:40:00Z"}'],
    ['combined', '203.0.113.1 - - [23/Nov/2026:06:40:00 +0000] "GET /x HTTP/1.1" 200 12 "-" "App/1"'],
    ['common', '203.0.113.1 - - [23/Nov/2026:06:40:00 +0000] "GET /x HTTP/1.1" 200 -'],
    ['syslog', '<34>1 2026-11-23T06:40:00Z skerry gate - ID47 - opened'],
    ['pairs', 'time=2026-11-23T06:40:00Z vessel="Storm Petrel" rpm=720'],
    ['delimited', 'a|b|c'],
    ['pattern', 'the gate is open'],
  ])('%s is told from its lines, one odd line among them', (kind, line) => {
    const odd = kind === 'delimited' ? [] : ['???'];
    expect(guessFormat([line, line, line, ...odd]).kind).toBe(kind);
  });
});

test('a pattern names its fields, in either way of writing them', () => {
  expect(groupNames('(?<a>x)(?P<b>y)(?:z)(?<=q)')).toEqual(['a', 'b']);
  expect(re2Pattern('(?<a>x)(?P<b>y)')).toBe('(?P<a>x)(?P<b>y)');
  expect(patternProblem('no groups')).toContain('names no field');
  expect(patternProblem('(?<a>x)(?<a>y)')).toContain('two groups');
  expect(patternProblem('(?<a>x)')).toBeNull();
});

test('fields are marked where they stand, also where one text comes twice', () => {
  expect(
    marksOf('7 and 7', [
      { name: 'a', text: '7' },
      { name: 'b', text: null },
      { name: 'c', text: '7' },
      { name: 'd', text: 'gone' },
    ]),
  ).toEqual([
    { field: 'a', from: 0, to: 1 },
    { field: 'c', from: 6, to: 7 },
  ]);
});
