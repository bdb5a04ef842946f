import { describe, expect, test } from 'vitest';
import { checkFields } from '#core/dataset/check-fields.ts';
import type { Check, DataSet } from '#core/dataset/schema.ts';
import { compile } from '#core/sql/compile.ts';
import { duckdb } from '#core/sql/dialect/columnar/dialect.ts';
import type { Cell } from '#core/value/field/value.ts';
import { expectationWords } from '#core/words/check.ts';
import { checkPlan, resultOf } from './check.ts';
import type { Relation } from './plan.ts';

const fields: DataSet['fields'] = [
  { name: 'id', type: 'integer', label: 'Number' },
  { name: 'gate', type: 'text' },
  { name: 'at', type: 'instant', label: 'Scanned at' },
  { name: 'hidden', type: 'text', hidden: true },
];
const scans: DataSet = {
  version: 2,
  source: '00000000-0000-4000-8000-000000000001',
  request: { kind: 'upload', columns: [] },
  inputs: [],
  fields,
  key: 'id',
  noun: { one: 'scan', many: 'scans' },
  measures: [],
};
const from: Relation = { source: '', request: { kind: 'kept', name: 'scans' }, inputs: {}, fields };
const clock = { now: new Date('2026-11-23T12:00:00Z'), zone: 'UTC' };
const check = (expects: Check['expects']): Check => ({ name: 'a check', expects, holds: false });
const met = (expects: Check['expects'], ...cells: Cell[]): [string, string, string] => {
  const { state, failing, found } = resultOf(check(expects), cells, scans, clock);
  return [state, failing, found];
};

const unique = { kind: 'unique' as const, fields: ['gate', 'at'] };
const filled = { kind: 'filled' as const, field: 'gate' };
const nrk = {
  kind: 'all' as const,
  where: { field: 'gate', test: { op: 'startsWith' as const, text: 'NRK' } },
};

describe('a check', () => {
  test('says what it expects', () => {
    const wordsOf = (expects: Check['expects']): string => expectationWords(expects, scans);
    expect(wordsOf(unique)).toBe('no two scans have the same gate and scanned at');
    expect(wordsOf(filled)).toBe('gate is filled in for every scan');
    expect(wordsOf(nrk)).toBe('of every scan, gate starts with “NRK”');
    expect(wordsOf({ kind: 'count', least: 1 })).toBe('there is at least 1 scan');
    expect(wordsOf({ kind: 'count', most: 9 })).toBe('there are at most 9 scans');
    expect(wordsOf({ kind: 'count', least: 1, most: 9 })).toBe('there are 1 to 9 scans');
    expect(wordsOf({ kind: 'fresh', field: 'at', hours: 3 })).toBe(
      'the latest scanned at is at most 3 hours old',
    );
  });

  test('names the fields it needs', () => {
    expect(checkFields(unique)).toEqual(['gate', 'at']);
    expect(checkFields(filled)).toEqual(['gate']);
    expect(checkFields(nrk)).toEqual(['gate']);
    expect(checkFields({ kind: 'count' })).toEqual([]);
  });

  test('is met when no record fails it, and says how many do', () => {
    expect(met(filled, '0', '40')).toEqual(['met', '0', 'all 40 scans']);
    expect(met(nrk, '7', '40')).toEqual(['broken', '7', '7 of 40 scans are not so']);
    expect(met(filled, '0', '1040')).toEqual(['met', '0', 'all 1,040 scans']);
    expect(met(nrk, '1', '1040')).toEqual(['broken', '1', '1 of 1,040 scans is not so']);
    // The sum over no shared value is blank: nothing is shared.
    expect(met(unique, null)).toEqual(['met', '0', 'none share it']);
    expect(met(unique, '4')).toEqual(['broken', '4', '4 scans share it']);
  });

  test('of how many there are holds at its ends, with counts beyond what a float holds', () => {
    const bounds = { kind: 'count' as const, least: 3, most: 5 };
    expect(['2', '3', '5', '6'].map((count) => met(bounds, count)[0])).toEqual([
      'broken',
      'met',
      'met',
      'broken',
    ]);
    expect(met({ kind: 'count', most: 5 }, '9007199254740993')[0]).toBe('broken');
    expect(met({ kind: 'count' }, '0')[0]).toBe('met');
  });

  test('of age holds to the hour, and fails where there is nothing', () => {
    const fresh = { kind: 'fresh' as const, field: 'at', hours: 3 };
    expect(met(fresh, '2026-11-23T09:00:00Z')).toEqual(['met', '0', 'the latest is 3 hours old']);
    expect(met(fresh, '2026-11-23T08:59:59Z')[0]).toBe('broken');
    expect(met(fresh, '2026-11-20T12:00:00Z')[2]).toBe('the latest is 3 days old');
    expect(met(fresh, null)).toEqual(['broken', '0', 'there is no latest one']);
  });

  test('shows the records that fail, but no field that is hidden; of a count there are none', () => {
    for (const expects of [unique, filled, nrk]) {
      const { plan, failing } = checkPlan(check(expects), scans, from, clock);
      expect(compile(plan, duckdb).text).toContain('kept');
      expect(failing?.fields).not.toContain('hidden');
      if (failing) expect(compile(failing, duckdb).text).toContain('LIMIT');
    }
    expect(checkPlan(check({ kind: 'count' }), scans, from, clock).failing).toBeNull();
    expect(checkPlan(check({ kind: 'fresh', field: 'at', hours: 1 }), scans, from, clock).failing).toBeNull();
  });

  test('that several records share a value passes over blanks', () => {
    const { text } = compile(checkPlan(check(unique), scans, from, clock).plan, duckdb);
    expect(text).toContain('(r."gate" IS NOT NULL) AND (r."at" IS NOT NULL)');
    expect(text).toContain('GROUP BY 1, 2');
  });
});
