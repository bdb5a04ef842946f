import { describe, expect, test } from 'vitest';
import { tryLines } from '../logs/read.ts';
import { readLines, readOtlp } from './otlp.ts';

const envelope = (logRecords: unknown[]) => ({
  resourceLogs: [
    {
      resource: { attributes: [{ key: 'service.name', value: { stringValue: 'passages' } }] },
      scopeLogs: [{ scope: { name: 'p' }, logRecords }],
    },
  ],
});

describe('OTLP logs', () => {
  test('become records with their attributes, to the microsecond and the last digit', () => {
    const taken = readOtlp(
      envelope([
        {
          timeUnixNano: '1795416000123456789',
          severityText: 'WARN',
          severityNumber: 13,
          body: {
            kvlistValue: {
              values: [
                {
                  key: 'a',
                  value: { arrayValue: { values: [{ intValue: '9007199254740993' }, { boolValue: true }] } },
                },
              ],
            },
          },
          attributes: [{ key: 'passage_ref', value: { stringValue: 'PSG-1' } }],
        },
      ]),
    );
    expect(taken?.rejected.count).toBe(0);
    expect(JSON.parse(taken?.records[0] ?? '')).toMatchObject({
      time: '2026-11-23T06:40:00.123456Z',
      severity: 'WARN',
      attributes: { passage_ref: 'PSG-1' },
      resource: { 'service.name': 'passages' },
    });
    expect(taken?.records[0]).toContain('"body":{"a":[9007199254740993,true]}');
  });
  test('keep what the protocol says is a text a text, and a number a number', async () => {
    const attributes = (version: string, n: number) => [
      { key: 'version', value: { stringValue: version } },
      { key: 'took', value: { intValue: String(n) } },
    ];
    const taken = readOtlp(
      envelope([{ attributes: attributes('1.2', 40) }, { attributes: attributes('1.10', 50) }]),
    );
    const { columns, records } = await tryLines({
      line: { kind: 'json' },
      columns: [],
      lines: taken?.records ?? [],
      limit: 5,
      started: 0,
    });
    const at = (name: string) => columns.findIndex((column) => column.name === name);
    expect(columns[at('attributes_version')]?.type).toBe('text');
    expect(columns[at('attributes_took')]?.type).toBe('integer');
    expect(records.map((record) => record[at('attributes_version')])).toEqual(['1.2', '1.10']);
  });
  test('that are malformed are counted, and the others taken', () => {
    const taken = readOtlp(
      envelope([
        { body: { stringValue: 'good' } },
        { timeUnixNano: 'soon' },
        7,
        { timeUnixNano: '0', observedTimeUnixNano: '1795416000000000000' },
      ]),
    );
    expect(taken?.records).toHaveLength(2);
    expect(taken?.rejected.count).toBe(2);
    expect(JSON.parse(taken?.records[1] ?? '').time).toBe('2026-11-23T06:40:00.000000Z');
  });
  test.each([[null], [7], [{ resourceLogs: {} }], [{ resourceLogs: [{ scopeLogs: 'x' }] }]])(
    'are not made of %j',
    (body) => {
      expect(readOtlp(body)).toBeNull();
    },
  );
  test('of nothing are nothing', () => {
    expect(readOtlp({})?.records).toEqual([]);
  });
});

test('lines are taken as they stand, and those that are no objects counted', () => {
  expect(readLines('{"a":1}\r\n\n[1]\n{"b"\n{"c":"x\0y"}')).toEqual({
    records: ['{"a":1}', '[1]', '{"b"', '{"c":"x y"}'],
    rejected: { count: 2, why: 'some lines are not JSON objects' },
  });
});
