import { randomUUID } from 'node:crypto';
import { mkdirSync } from 'node:fs';
import path from 'node:path';
import type { ReadableStream } from 'node:stream/web';
import { DuckDBInstance } from '@duckdb/node-api';
import ExcelJS from 'exceljs';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import type { FileReading } from '#core/dataset/upload.ts';
import type { RecordsPlan } from '#core/plan/plan.ts';
import { literalText } from '#engine/columnar/quote.ts';
import { type KeptTest, keptTest } from '../../testing/kept.ts';
import { runPlan } from '../records/run.ts';
import { findDataSet } from '../store/data-sets.ts';
import { receiveFile, uploadedFile } from './files.ts';
import { acceptLater, acceptNew, lookAtFile, type SeenFile } from './look.ts';

/* What is found out about a file before anybody says anything about it. */

let installed: KeptTest;
beforeAll(async () => {
  installed = await keptTest();
  mkdirSync(path.join(installed.cache, 'uploads'));
});
afterAll(() => installed.close());

const send = async (content: string | Buffer): Promise<string> =>
  (await receiveFile(new Blob([content as never]).stream() as unknown as ReadableStream<Uint8Array>)).id;
const look = async (content: string | Buffer, reading?: FileReading): Promise<SeenFile> =>
  lookAtFile(await send(content), reading);

/** Each field with its type, and the form that it is written in. */
const typesOf = ({ fields }: SeenFile): Record<string, string> =>
  Object.fromEntries(
    fields.map(({ name, type, form }) => [name, form ? `${type} (${form.form}${form.unit ?? ''})` : type]),
  );

/** Accepts a file as it was seen, and gives its records. */
async function recordsOf(content: string | Buffer): Promise<unknown> {
  const [file, id] = [await send(content), randomUUID()];
  const { reading, fields } = await lookAtFile(file);
  await acceptNew({
    id,
    file,
    reading,
    fields: fields.map(({ name, type }) => ({ name, type })),
    forms: Object.fromEntries(fields.flatMap(({ name, form }) => (form ? [[name, form.form]] : []))),
    units: Object.fromEntries(fields.flatMap(({ name, form }) => (form?.unit ? [[name, form.unit]] : []))),
    name: `File ${id}`,
    noun: { one: 'record', many: 'records' },
    by: installed.author,
  });
  return (await runPlan(all(id, fields), { doing: 'testing' })).records;
}
const all = (
  id: string,
  fields: readonly { name: string; type: SeenFile['fields'][number]['type'] }[],
): RecordsPlan => ({
  kind: 'records',
  from: { source: '', request: { kind: 'kept', name: id }, inputs: {}, fields: [...fields] },
  where: { all: [] },
  zone: 'UTC',
  fields: fields.map(({ name }) => name),
  order: [],
  offset: 0,
  limit: 10,
});

describe('texts that all agree in how they are written', () => {
  test.each([
    ['1,234', '12', 'integer (thousands)', '1234'],
    ['1.234,50', '-12,5', 'decimal (decimal comma)', '1234.5'],
    ['$1,000.50', '$-2', 'decimal (money$)', '1000.5'],
    ['1.000,50 €', '2,5 €', 'decimal (money with a decimal comma€)', '1000.5'],
    ['12%', '0.5 %', 'decimal (percent)', '0.12'],
    ['31.12.2025', '1.2.2025', 'date (day first)', '2025-12-31'],
    ['12/31/2025', '1/2/2025', 'date (month first)', '2025-12-31'],
    ['2015/01/31', '2015/1/2', 'date (year first)', '2015-01-31'],
    ['Jan 31 2000', '2 Feb 2001', 'date (month named)', '2000-01-31'],
    ['2015/01/31 01:00', '2015/02/01 23:59:59', 'text (year first, with a time)', '2015-01-31 01:00:00'],
    [
      '2026-11-27 16:16:15.349 UTC',
      '2026-11-27 16:16:00 GMT',
      'instant (moment in UTC)',
      '2026-11-27T16:16:15.349Z',
    ],
    ['1,234', '007', 'text', '1,234'],
    ['1,234', '12,34', 'decimal (decimal comma)', '1.234'],
    ['$1', '£2', 'text', '$1'],
    ['31/12/2025', '12/31/2025', 'text', '31/12/2025'],
    ['30.2.2025', '1.2.2025', 'text', '30.2.2025'],
  ])('are read so: %s and %s are %s', async (first, second, type, read) => {
    const content = `id;what\n1;${first}\n2;${second}\n3;\n`;
    expect(typesOf(await look(content)).what).toBe(type);
    expect(await recordsOf(content)).toMatchObject([
      ['1', read],
      ['2', expect.anything()],
      ['3', null],
    ]);
  });

  test('stay texts where one after thousands of them is written otherwise', async () => {
    const many = Array.from({ length: 6_000 }, (_, at) => `${at};1.${100 + (at % 900)},50`).join('\n');
    expect(typesOf(await look(`id;what\n${many}\n`)).what).toBe('decimal (decimal comma)');
    const seen = await look(`id;what\n${many}\n6001;about 12\n`);
    expect(typesOf(seen).what).toBe('text');
    expect(seen.total).toBe(6_001);
  });

  test('are written as money and percentages are, and a later file is read by the same forms', async () => {
    const [file, id] = [await send('id;paid;share\n1;£1,000.50;12%\n'), randomUUID()];
    const { reading } = await lookAtFile(file);
    const fields = [
      { name: 'id', type: 'integer' as const },
      { name: 'paid', type: 'decimal' as const },
      { name: 'share', type: 'decimal' as const },
    ];
    const forms = { paid: 'money' as const, share: 'percent' as const };
    const noun = { one: 'payment', many: 'payments' };
    await acceptNew({
      id,
      file,
      reading,
      fields,
      forms,
      units: { paid: '£' },
      name: 'Payments',
      noun,
      by: installed.author,
    });
    expect((await findDataSet(id))?.definition.fields).toEqual([
      { name: 'id', type: 'integer' },
      { name: 'paid', type: 'decimal', unit: '£' },
      { name: 'share', type: 'decimal', format: { kind: 'percent' } },
    ]);
    await acceptLater({ into: id, how: 'add', file: await send('id;paid;share\n2;£3;5%\n'), reading });
    expect((await runPlan(all(id, fields), { doing: 'testing' })).records).toEqual([
      ['1', '1000.5', '0.12'],
      ['2', '3', '0.05'],
    ]);
  });
});

describe('title lines above a header', () => {
  test.each([
    ['a title and a blank line', 'Quarterly report\n\nid,name,amount\n1,Ann,5\n2,Bob,6\n3,Cy,7\n', 2],
    ['titles of a wide table', 'Quarterly report,,\n,,\nid,name,amount\n1,Ann,5\n2,Bob,6\n3,Cy,7\n', 2],
    ['a title with another delimiter', 'All; of it\nid,name,amount\n1,Ann,5\n2,Bob,6\n3,Cy,7\n', 1],
  ])('are left out: %s', async (_, content, skip) => {
    const seen = await look(content);
    expect(seen.reading).toMatchObject({ skip, header: true });
    expect(seen.fields.map(({ name }) => name)).toEqual(['id', 'name', 'amount']);
    expect([seen.total, seen.rejected.count]).toEqual([3, 0]);
    const [kept] = (await look(content, { kind: 'delimited', delimiter: ',', skip: 0, header: false }))
      .records;
    expect(kept?.join(',')).toContain(content.slice(0, 4));
  });

  test('are not seen in a table without any, whose first record has a blank', async () => {
    const seen = await look('1,\n2,b\n3,c\n4,d\n', { kind: 'delimited', header: false });
    expect([seen.total, (seen.reading as { skip?: number }).skip]).toEqual([4, 0]);
  });
});

describe('JSON', () => {
  test('that is a document is read from its longest list, and as a whole where somebody says so', async () => {
    const content = JSON.stringify({
      total: 2,
      links: [{ to: 'a' }],
      data: { orders: [{ id: 1 }, { id: 2 }] },
    });
    const seen = await look(content);
    expect([seen.reading, seen.total]).toEqual([{ kind: 'json', at: ['data', 'orders'] }, 2]);
    expect(seen.lists?.map(({ at }) => at)).toEqual([['data', 'orders'], ['links']]);
    const whole = await look(content, { kind: 'json', at: [] });
    expect([whole.total, whole.fields.map(({ name }) => name)]).toEqual([1, ['total', 'links', 'data']]);
    expect(await recordsOf(content)).toEqual([['1'], ['2']]);
  });

  test('of 20 MB in one list is read with the memory that any file has', async () => {
    const note = 'x'.repeat(150);
    const data = Array.from({ length: 100_000 }, (_, id) => `{"id":${id},"note":"${note}"}`).join(',');
    const seen = await look(`{"data":[${data}]}`);
    expect([seen.total, typesOf(seen)]).toEqual([100_000, { id: 'integer', note: 'text' }]);
  });

  test('lists the lines that cannot be read, and reads the rest', async () => {
    const seen = await look('{"a":1,"b":"x"}\n{"a":2,"b":\n{"a":3,"b":"z"}\nnonsense\n7\n');
    expect(seen.total).toBe(2);
    expect(seen.rejected.count).toBe(3);
    expect(seen.rejected.examples.map(({ line, text }) => [line, text])).toEqual([
      [2, '{"a":2,"b":'],
      [4, 'nonsense'],
      [5, '7'],
    ]);
  });

  test('texts that look like numbers are texts, and dates in texts are dates', async () => {
    const seen = await look(
      '[{"code":"12","n":12,"yes":"true","on":"2026-11-23","v":"1.2"},{"code":"13","n":1.5}]',
    );
    expect(typesOf(seen)).toEqual({ code: 'text', n: 'decimal', yes: 'text', on: 'date', v: 'text' });
  });
});

test('Parquet keeps the types that it says, NaN and infinity among its floats', async () => {
  const file = await send('x');
  const instance = await DuckDBInstance.create(':memory:');
  const connection = await instance.connect();
  await connection.run(
    `COPY (SELECT * FROM (VALUES ('12', 1.5::DOUBLE, 7::SMALLINT, 1.50::DECIMAL(9,2), 1), ('13', 'NaN'::DOUBLE, NULL, 2, 1), ('14', '-Infinity'::DOUBLE, 8, 3, 1))
       AS t(code, share, n, fare, flag)) TO ${literalText(uploadedFile(file))} (FORMAT parquet)`,
  );
  connection.closeSync();
  instance.closeSync();
  const seen = await lookAtFile(file);
  expect(typesOf(seen)).toEqual({
    code: 'text',
    share: 'float',
    n: 'integer',
    fare: 'decimal',
    flag: 'integer',
  });
  const id = randomUUID();
  const fields = seen.fields.map(({ name, type }) => ({ name, type }));
  const noun = { one: 'record', many: 'records' };
  await acceptNew({ id, file, reading: seen.reading, fields, name: 'Shares', noun, by: installed.author });
  expect((await runPlan(all(id, fields), { doing: 'testing' })).records).toEqual([
    ['12', 1.5, '7', '1.5', '1'],
    ['13', 'NaN', null, '2', '1'],
    ['14', '-Infinity', '8', '3', '1'],
  ]);
});

describe('a spreadsheet', () => {
  async function sheet(rows: ExcelJS.CellValue[][]): Promise<Buffer> {
    const book = new ExcelJS.Workbook();
    book.addWorksheet('Fuel').addRows(rows);
    return Buffer.from(await book.xlsx.writeBuffer());
  }

  test('tells the cells that hold errors, which are blank', async () => {
    const seen = await look(
      await sheet([
        ['vessel', 'litres'],
        ['Kittiwake', 120],
        ['Fulmar', { error: '#DIV/0!' }],
        ['Gannet', { formula: 'B9', result: { error: '#N/A' } } as ExcelJS.CellValue],
      ]),
    );
    expect(typesOf(seen)).toEqual({ vessel: 'text', litres: 'integer' });
    expect(seen.errors).toEqual({
      count: 2,
      examples: [
        { place: 'B3', error: '#DIV/0!' },
        { place: 'B4', error: 'a formula that failed' },
      ],
    });
  });

  test('gives formulas as what they came to, dates among them', async () => {
    const book = new ExcelJS.Workbook();
    const made = book.addWorksheet('Fuel');
    made.addRows([['vessel', 'taken_on', 'litres']]);
    const taken = { formula: 'TODAY()', result: new Date('2026-11-23T00:00:00Z') } as ExcelJS.CellValue;
    made.addRow(['Kittiwake', taken, { formula: '60*2', result: 120 } as ExcelJS.CellValue]);
    made.getCell('B2').numFmt = 'dd/mm/yyyy';
    const seen = await look(Buffer.from(await book.xlsx.writeBuffer()));
    expect(seen.records).toEqual([['Kittiwake', '2026-11-23', '120']]);
  });

  test('leaves out a last row that is a total, unless somebody says that it is a record', async () => {
    const content = await sheet([
      ['vessel', 'litres'],
      ['Kittiwake', 120],
      ['Total pilot boat', 80],
      ['Grand total', 200],
    ]);
    const seen = await look(content);
    expect([seen.reading, seen.total]).toMatchObject([{ kind: 'sheet', total: 'left out' }, 2]);
    expect((await look(content, { ...seen.reading, total: 'kept' } as FileReading)).total).toBe(3);
    const without = await look(await sheet([['vessel'], ['Kittiwake'], ['Fulmar']]));
    expect([without.reading, without.total]).toEqual([{ kind: 'sheet', sheet: 'Fuel', header: 1 }, 2]);
  });
});

test('no message names a place on this machine', async () => {
  const outcome = await look('[{"a": 1}, {"a": ').then(
    () => 'it was read',
    (thrown: Error) => thrown.message,
  );
  expect(outcome).toMatch(/^reading the file: /);
  expect(outcome).not.toContain(installed.cache);
});

test('what identifies a record is measured over all records', async () => {
  const seen = await look('crew no;id;ref\n1;1;a\n2;2;b\n3;2;\n');
  expect(seen.fields.filter(({ unique }) => unique).map(({ name }) => name)).toEqual(['crew no']);
  const late = Array.from({ length: 3_000 }, (_, at) => `${at};x`).join('\n');
  expect((await look(`id;what\n${late}\n`)).fields[0]?.unique).toBe(true);
  expect((await look(`id;what\n${late}\n2999;x\n`)).fields[0]?.unique).toBeUndefined();
  // In whatever order they stand.
  const unique = async (...ids: string[]) =>
    (await look(`id;what\n${ids.join(';x\n')};x\n`)).fields[0]?.unique;
  expect(await unique('3', '1', '2')).toBe(true);
  expect(await unique('1', '3', '2', '3')).toBeUndefined();
  expect(await unique('1', '2', '', '3')).toBeUndefined();
  expect(await unique('b', 'a', 'a b')).toBe(true);
});

test('JSON is looked at as all of its records have it, however much alike the first are', async () => {
  const lines = (late: string[], first = 6_000): string =>
    [...Array.from({ length: first }, (_, at) => `{"id": ${at}, "gate": "N"}`), ...late].join('\n');
  const seen = await look(lines(['{"id": 6000, "gate": "S", "remark": "late", "fare": "1,50"}']));
  expect(typesOf(seen)).toEqual({ id: 'integer', gate: 'text', remark: 'text', fare: 'text' });
  expect(seen.total).toBe(6_001);
  expect(seen.fields.map(({ blank }) => blank)).toEqual([0, 0, 6_000, 6_000]);
  const broken = await look(lines(['{"id": 6000, "gate": ', '7']));
  expect(broken.rejected.count).toBe(2);
  expect(broken.total).toBe(6_000);
  const long = await look(lines(['{"id": 6000, "gate": 1.2345678901234567890}']));
  expect(long.fields.map(({ type }) => type)).toEqual(['integer', 'text']);
  const alike = await look(lines(['{"id": 6000, "gate": "S", "Gate": "T"}']));
  expect(alike.fields.map(({ name, blank }) => [name, blank])).toEqual([
    ['id', 0],
    ['gate', 0],
    ['Gate_2', 6_000],
  ]);
});

test('a form is found where only later records are filled', async () => {
  const first = Array.from({ length: 1_500 }, (_, at) => `${at};;a`).join('\n');
  const seen = await look(`id;left on;what\n${first}\n1500;31.12.2025;a\n1501;24.12.2025;b\n`);
  expect(typesOf(seen)).toEqual({ id: 'integer', 'left on': 'date (day first)', what: 'text' });
});
