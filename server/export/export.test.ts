import { randomUUID } from 'node:crypto';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { DuckDBInstance } from '@duckdb/node-api';
import ExcelJS from 'exceljs';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import type { DataSet } from '#core/dataset/schema.ts';
import { problemOf } from '#core/value/problem/problem.ts';
import type { ExportFormatName } from '#core/words/export-formats.ts';
import { type KeptTest, keptTest } from '../../testing/kept.ts';
import { exportDataSet } from './export.ts';
import { formats } from './formats.ts';

let installed: KeptTest;
const folder = mkdtempSync(path.join(tmpdir(), 'slate-export-'));
let definition: DataSet;

beforeAll(async () => {
  installed = await keptTest();
  await installed.gates.query(`
    CREATE TABLE tickets (id bigint PRIMARY KEY, fare numeric, rider text, sold_at timestamptz, on_day date, paid boolean);
    INSERT INTO tickets VALUES
      (1, 12.50, '=1+1', '2026-07-01T06:40:00Z', '2026-07-01', true),
      (9007199254740993, 12345678901234567890.12, E'a "b"\\nc, d', NULL, NULL, NULL);
    INSERT INTO tickets SELECT n, n, 'x', '2026-01-01T00:00:00Z', '2026-01-01', false FROM generate_series(2, 12000) AS n`);
  const columns = (
    [
      ['id', 'integer'],
      ['fare', 'decimal'],
      ['rider', 'text'],
      ['sold_at', 'instant'],
      ['on_day', 'date'],
      ['paid', 'boolean'],
    ] as const
  ).map(([name, type]) => ({ column: name, name, type }));
  definition = {
    version: 2,
    source: installed.source,
    request: { kind: 'table', schema: 'public', table: 'tickets', columns, lookUps: [] },
    inputs: [],
    fields: columns.map(({ name, type }) => ({
      name,
      type,
      ...(name === 'rider' ? { label: 'Who rode' } : {}),
    })),
    key: 'id',
    noun: { one: 'ticket', many: 'tickets' },
    measures: [],
  };
});
afterAll(async () => {
  await installed.close();
  rmSync(folder, { recursive: true, force: true });
});

const exported = (format: ExportFormatName, of = definition) =>
  exportDataSet({ id: randomUUID(), name: 'Tickets, all', definition: of }, new Map(), {
    zone: 'Europe/London',
    now: new Date('2026-11-23T12:00:00Z'),
    format,
    signal: new AbortController().signal,
  });
async function file(format: ExportFormatName): Promise<string> {
  const answer = await exported(format);
  expect(answer.headers.get('content-disposition')).toContain(`Tickets%2C%20all.${format}`);
  const place = path.join(folder, `records.${format}`);
  writeFileSync(place, Buffer.from(await answer.arrayBuffer()));
  return place;
}

describe('a data set downloaded', () => {
  test('as text has every record, every digit, and no formula', async () => {
    const csv = (await (await exported('csv')).text()).split('\r\n');
    expect(csv[0]).toBe('Id,Fare,Who rode,Sold at,On day,Paid');
    expect(csv[1]).toBe("1,12.50,'=1+1,2026-07-01T06:40:00Z,2026-07-01,true");
    expect(csv.length).toBeGreaterThan(12_000);
    const lines = (await (await exported('ndjson')).text()).trim().split('\n');
    expect(lines).toHaveLength(12_001);
    expect(JSON.parse(lines.at(-1) ?? '')).toMatchObject({
      id: '9007199254740993',
      fare: '12345678901234567890.12',
    });
    expect(JSON.parse(await (await exported('json')).text()).records).toHaveLength(12_001);
  });

  test('as Parquet has its types', async () => {
    const place = await file('parquet');
    const connection = await (await DuckDBInstance.create(':memory:')).connect();
    const reader = await connection.runAndReadAll(
      `SELECT count(*), max(id)::VARCHAR, max(fare)::VARCHAR, typeof(any_value(sold_at)), count(*) FILTER (WHERE paid) FROM read_parquet('${place}')`,
    );
    expect(reader.getRows()[0]?.map(String)).toEqual([
      '12001',
      '9007199254740993',
      '12345678901234567890.12',
      'TIMESTAMP',
      '1',
    ]);
    connection.closeSync();
  });

  test('as a spreadsheet has numbers where they are exact, moments by the desk’s clock, texts that are no formulas', async () => {
    const workbook = new ExcelJS.Workbook();
    await workbook.xlsx.readFile(await file('xlsx'));
    expect(workbook.getWorksheet('About')?.getRow(1).values).toEqual([undefined, 'Title', 'Tickets, all']);
    const sheet = workbook.getWorksheet('Records');
    expect(sheet?.rowCount).toBe(12_002);
    expect(sheet?.getRow(1).values).toEqual([
      undefined,
      'Id',
      'Fare',
      'Who rode',
      'Sold at',
      'On day',
      'Paid',
    ]);
    expect(sheet?.getRow(2).values).toEqual([
      undefined,
      1,
      12.5,
      '=1+1',
      new Date('2026-07-01T07:40:00Z'),
      new Date('2026-07-01T00:00:00Z'),
      true,
    ]);
    expect(sheet?.getCell('C2').type).toBe(ExcelJS.ValueType.String);
    const last = sheet?.getRow(12_002);
    expect([last?.getCell(1).value, last?.getCell(2).value]).toEqual([
      '9007199254740993',
      '12345678901234567890.12',
    ]);
  });

  test('that depends on an input says so', async () => {
    const input = { name: 'gate', type: 'text' as const, required: true, label: 'a gate' };
    const outcome = await Promise.resolve()
      .then(() => exported('csv', { ...definition, inputs: [input] }))
      .catch((thrown) => problemOf(thrown, 'x').why);
    expect(outcome).toBe('its records depend on a gate');
  });
});

test('numbers as they look have their heads over what belongs to them, totals in bold, and marks at the edges of what lies in a band', async () => {
  const rate = {
    type: 'decimal' as const,
    format: { kind: 'percent' as const, decimals: 1 },
    bands: [{ mark: { word: 'poor', tone: 'broken' as const } }, { from: '0.8' }],
  };
  const bytes = await formats.xlsx.writePage?.(
    {
      corner: 'Route › Vessel',
      heads: [
        [
          { words: '2025', from: 0, columns: 2, rows: 1 },
          { words: 'Total', from: 2, columns: 1, rows: 2 },
        ],
        [
          { words: 'Nov', from: 0, columns: 1, rows: 1 },
          { words: 'Dec so far', from: 1, columns: 1, rows: 1 },
        ],
      ],
      columns: [rate, rate, rate],
      rows: [
        { words: 'North', depth: 0, isTotal: true, cells: ['0.9', '0.75', '0.85'] },
        { words: '=1+1', depth: 1, isTotal: false, cells: ['0.9', null, '0.9'] },
      ],
    },
    { title: 'On time', scope: 'sailings of all routes', at: new Date('2026-11-23T12:00:00Z'), zone: 'UTC' },
  );
  const workbook = new ExcelJS.Workbook();
  await workbook.xlsx.load(bytes?.buffer ?? new ArrayBuffer(0));
  const sheet = workbook.getWorksheet('As it looks');
  expect(sheet?.getCell('A1').value).toBe('Route › Vessel');
  expect(['A2', 'C1', 'D2'].map((at) => sheet?.getCell(at).master.address)).toEqual(['A1', 'B1', 'D1']);
  expect(sheet?.getCell('C2').value).toBe('Dec so far');
  const north = sheet?.getRow(3);
  expect(north?.values).toEqual([undefined, 'North', 0.9, 0.75, 0.85]);
  expect([north?.getCell(2).numFmt, north?.font?.bold]).toEqual(['0.0%', true]);
  expect(north?.getCell(3).border?.left?.style).toBe('thick');
  expect(north?.getCell(2).border?.left).toBeUndefined();
  const vessel = sheet?.getRow(4);
  expect(vessel?.getCell(1).type).toBe(ExcelJS.ValueType.String);
  expect(vessel?.getCell(1).alignment?.indent).toBe(1);
  expect(vessel?.getCell(3).value).toBeNull();
  expect(workbook.getWorksheet('About')?.getRow(2).values).toEqual([
    undefined,
    'Scope',
    'sailings of all routes',
  ]);
});
