import { randomUUID } from 'node:crypto';
import { existsSync, mkdirSync, readdirSync } from 'node:fs';
import path from 'node:path';
import { ReadableStream } from 'node:stream/web';
import { gzipSync } from 'node:zlib';
import ExcelJS from 'exceljs';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import type { GroupsPlan } from '#core/plan/plan.ts';
import { type KeptTest, keptTest } from '../../testing/kept.ts';
import { refresh } from '../kept/refresh.ts';
import { runPlan } from '../records/run.ts';
import { settings } from '../settings.ts';
import { findDataSet, saveDataSet } from '../store/data-sets.ts';
import { listSources } from '../store/sources.ts';
import { readingOf, receiveFile, uploadedFile } from './files.ts';
import { acceptLater, acceptNew, lookAtFile } from './look.ts';
import { rowsOfSheet } from './rows.ts';

let installed: KeptTest;
beforeAll(async () => {
  process.env.SLATE_UPLOAD_MB = '1';
  installed = await keptTest();
  mkdirSync(path.join(installed.cache, 'uploads'));
  expect(settings().SLATE_UPLOAD_MB).toBe(1);
});
afterAll(() => installed.close());

const stream = (content: string | Buffer): ReadableStream<Uint8Array> =>
  new Blob([content as never]).stream() as unknown as ReadableStream<Uint8Array>;
const send = async (content: string | Buffer): Promise<string> => (await receiveFile(stream(content))).id;
const left = (): string[] => readdirSync(path.join(installed.cache, 'uploads'));

const training = 'crew,course,passed_on,fee\n1,Fire,2026-11-02,19.90\n2,Radio,2026-11-03,0.10\n';
const noun = { one: 'result', many: 'results' };
const fields = [
  { name: 'crew', type: 'integer' as const },
  { name: 'course', type: 'text' as const },
  { name: 'passed_on', type: 'date' as const },
  { name: 'fee', type: 'decimal' as const },
];

async function accepted(content = training): Promise<string> {
  const id = randomUUID();
  const file = await send(content);
  const { reading } = await lookAtFile(file);
  await acceptNew({ id, file, reading, fields, name: 'Training', noun, by: installed.author });
  return id;
}

async function fees(id: string): Promise<unknown> {
  const plan: GroupsPlan = {
    kind: 'groups',
    from: { source: '', request: { kind: 'kept', name: id }, inputs: {}, fields },
    where: { all: [] },
    zone: 'UTC',
    by: [],
    measures: [
      { name: 'n', calculation: { kind: 'count' } },
      { name: 'fees', calculation: { kind: 'sum', field: 'fee' } },
    ],
    order: [],
    limit: 1,
  };
  return (await runPlan(plan, { doing: 'testing' })).records[0];
}

describe('a file on its way in', () => {
  test('larger than allowed is refused, and nothing of it is left', async () => {
    const before = left().length;
    await expect(send(Buffer.alloc(1_500_000, 'x'))).rejects.toThrow('larger than 1 MB');
    expect(left()).toHaveLength(before);
  });

  test('that expands a thousandfold is stopped on its way out', async () => {
    const before = left().length;
    await expect(send(gzipSync(Buffer.alloc(50_000_000)))).rejects.toThrow(
      'what is packed in it is larger than 4 MB',
    );
    expect(left()).toHaveLength(before);
  });

  test('whose packing is cut off says so', async () => {
    await expect(send(gzipSync(training).subarray(0, 40))).rejects.toThrow('its packing is broken');
  });

  test('that is cut off leaves nothing behind', async () => {
    const before = left().length;
    const broken = new ReadableStream<Uint8Array>({
      start(controller) {
        controller.enqueue(new TextEncoder().encode('crew,course\n'));
        controller.error(new Error('the line is dead'));
      },
    });
    await expect(receiveFile(broken)).rejects.toThrow('did not arrive whole');
    expect(left()).toHaveLength(before);
  });

  test('is known by what it holds, not by its name', () => {
    const kind = (text: string): string => readingOf(Buffer.from(text, 'latin1')).kind;
    expect(kind('PAR1....')).toBe('parquet');
    expect(kind('  [{"a":1}]')).toBe('json');
    expect(kind('{"a":1}\n{"a":2}')).toBe('json');
    expect(kind('a,b\n1,2')).toBe('delimited');
    expect(kind('')).toBe('delimited');
    expect(readingOf(Buffer.from('quai;nom\n1;Stærøy', 'latin1'))).toEqual({
      kind: 'delimited',
      encoding: 'latin-1',
    });
    // A letter of several bytes that is cut off is no sign of another encoding.
    expect(readingOf(Buffer.from('quai;nom\n1;Stær').subarray(0, -1))).toEqual({ kind: 'delimited' });
    expect(readingOf(Buffer.from([0xff, 0xfe, 0x61, 0]))).toEqual({ kind: 'delimited', encoding: 'utf-16' });
    expect(kind('PK\u0003\u0004')).toBe('sheet');
  });

  test('can only be asked for by an id of ours', async () => {
    expect(uploadedFile('../../etc/passwd')).toBe(path.join(installed.cache, 'uploads', 'passwd'));
    await expect(lookAtFile(randomUUID())).rejects.toThrow('not here any more');
  });
});

describe('an accepted file', () => {
  test('is a data set with its records, to the last digit; sent twice it is one', async () => {
    const id = randomUUID();
    const file = await send(training);
    const { reading, fields: seen } = await lookAtFile(file);
    expect(seen.map(({ type }) => type)).toEqual(['integer', 'text', 'date', 'decimal']);
    const made = { id, file, reading, fields, name: 'Training', noun, by: installed.author };
    await acceptNew(made);
    await acceptNew(made);
    expect(await fees(id)).toEqual(['2', '20']);
    await expect.poll(() => existsSync(uploadedFile(file))).toBe(false);
    expect((await findDataSet(id))?.definition.keep).toBeDefined();
    expect((await listSources()).filter(({ connection }) => connection.kind === 'upload')).toHaveLength(1);
  });

  test('packed with gzip is the same', async () => {
    const id = randomUUID();
    const file = await send(gzipSync(training));
    await acceptNew({
      id,
      file,
      reading: { kind: 'delimited', header: true },
      fields,
      name: 'Packed',
      noun,
      by: installed.author,
    });
    expect(await fees(id)).toEqual(['2', '20']);
  });

  test('with a value that is not of the type said is refused, and nothing is kept', async () => {
    const id = randomUUID();
    const file = await send('crew,course,passed_on,fee\n1,Fire,soon,19.90\n');
    const wrong = {
      id,
      file,
      reading: { kind: 'delimited' as const },
      fields,
      name: 'Wrong',
      noun,
      by: installed.author,
    };
    await expect(acceptNew(wrong)).rejects.toThrow('“passed_on” cannot be read as date, such as “soon”');
    expect(await findDataSet(id)).toBeNull();
  });

  test('is replaced by a later one, or grows by it', async () => {
    const id = await accepted();
    const more = await send('crew,course,passed_on,fee\n3,Radio,2026-12-01,1.2525\n');
    await acceptLater({ file: more, reading: { kind: 'delimited', header: true }, into: id, how: 'add' });
    expect(await fees(id)).toEqual(['3', '21.2525']);
    const other = await send('fee,crew,course,passed_on\n7.5,3,Radio,2026-12-01\n');
    await acceptLater({
      file: other,
      reading: { kind: 'delimited', header: true },
      into: id,
      how: 'replace',
    });
    expect(await fees(id)).toEqual(['1', '7.5']);
  });

  test('grows by each of two that are added at once, or by one while the other is told to be added again', async () => {
    const id = await accepted();
    const add = async (crew: number): Promise<void> =>
      acceptLater({
        file: await send(`crew,course,passed_on,fee\n${crew},Radio,2026-12-01,${crew}\n`),
        reading: { kind: 'delimited', header: true },
        into: id,
        how: 'add',
      });
    const both = await Promise.allSettled([add(3), add(4)]);
    const refused = both.filter((each) => each.status === 'rejected');
    expect(refused.map(({ reason }) => reason.problem.why)).toEqual(
      refused.map(() => 'somebody else has stored newer ones meanwhile'),
    );
    for (const [at, { status }] of both.entries()) if (status === 'rejected') await add(3 + at);
    expect(await fees(id)).toEqual(['4', '27']);
  });

  test('stays as it was when a later one lacks a field', async () => {
    const id = await accepted();
    const file = await send('crew,course\n3,Radio\n');
    await expect(
      acceptLater({ file, reading: { kind: 'delimited', header: true }, into: id, how: 'replace' }),
    ).rejects.toThrow('it has no field “passed_on”');
    expect(await fees(id)).toEqual(['2', '20']);
  });

  test('stays as it was when a check holds a later one back', async () => {
    const id = await accepted();
    const stored = await findDataSet(id);
    if (!stored) throw new Error('no data set');
    await saveDataSet({
      id,
      name: stored.name,
      revision: stored.revision,
      by: installed.author,
      definition: {
        ...stored.definition,
        checks: [{ name: 'One course each', expects: { kind: 'unique', fields: ['course'] }, holds: true }],
      },
    });
    const later = async (content: string): Promise<void> =>
      acceptLater({
        file: await send(content),
        reading: { kind: 'delimited', header: true },
        into: id,
        how: 'replace',
      });
    await expect(later(`${training}3,Radio,2026-11-04,1.00\n`)).rejects.toThrow(
      '“One course each” of “Training” holds',
    );
    expect(await fees(id)).toEqual(['2', '20']);
    await later(`${training}3,Ramp,2026-11-04,1.00\n`);
    expect(await fees(id)).toEqual(['3', '21']);
  });

  test('is never fetched again by a schedule', async () => {
    expect(await refresh(await accepted())).toMatchObject({
      state: 'failed',
      problem: { why: 'its records come from files' },
    });
  });
});

describe('a spreadsheet', () => {
  const workbook = async (): Promise<Buffer> => {
    const made = new ExcelJS.Workbook();
    const crew = made.addWorksheet('Crew');
    crew.addRow(['Crew training, as of today']);
    crew.addRow([]);
    crew.addRow(['staff_no', 'course', 'passed_on', 'score', 'total']);
    crew.addRow(['007', 'Fire', new Date('2026-11-02T00:00:00Z'), 77.5, { formula: 'D4+1', result: 78.5 }]);
    crew.addRow(['012', 'Radio, "sea"', null, 80, { formula: 'D5+1', result: 81 }]);
    const notes = made.addWorksheet('Notes');
    notes.addRow(['a']);
    notes.addRow([1]);
    return Buffer.from(await made.xlsx.writeBuffer());
  };
  test('is read by its sheet and its header row, both found and correctable', async () => {
    const id = await send(await workbook());
    const seen = await lookAtFile(id);
    expect(seen).toMatchObject({
      reading: { kind: 'sheet', sheet: 'Crew', header: 3 },
      sheets: ['Crew', 'Notes'],
      total: 2,
    });
    expect(seen.fields.map(({ name, type }) => [name, type])).toEqual([
      ['staff_no', 'text'],
      ['course', 'text'],
      ['passed_on', 'date'],
      ['score', 'decimal'],
      ['total', 'decimal'],
    ]);
    expect(seen.records).toEqual([
      ['007', 'Fire', '2026-11-02', '77.5', '78.5'],
      ['012', 'Radio, "sea"', null, '80', '81'],
    ]);
    expect((await lookAtFile(id, { kind: 'sheet', sheet: 'Notes' })).fields).toMatchObject([
      { name: 'a', type: 'integer' },
    ]);
    await expect(lookAtFile(id, { kind: 'sheet', sheet: 'Gone' })).rejects.toThrow('no sheet “Gone”');
  });

  test('that is broken says what to do', async () => {
    const id = await send((await workbook()).subarray(0, 900));
    await expect(lookAtFile(id)).rejects.toThrow(/cannot be opened|no sheets/);
    await expect(lookAtFile(await send(Buffer.from('PK\u0003\u0004nonsense')))).rejects.toThrow(
      /cannot be opened|no sheets/,
    );
  });
});

test('the rows of a spreadsheet are read as they stand in it, once, and none of one with an error', async () => {
  const workbook = async (...rows: readonly ExcelJS.CellValue[][]): Promise<string> => {
    const book = new ExcelJS.Workbook();
    book.addWorksheet('Orders').addRows(rows as never);
    return send(Buffer.from(await book.xlsx.writeBuffer()));
  };
  const before = left();
  const head = ['title', 'due', 'cost'];
  const whole = await workbook(
    head,
    ['say "no", twice', new Date('2026-11-03'), 0.1],
    ['a\nb', null, 12],
    ['Total', null, 12.1],
  );
  expect(await rowsOfSheet(whole)).toBe(
    '"title","due","cost"\n"say ""no"", twice","2026-11-03","0.1"\n"a\nb","","12"\n',
  );
  const wrong = await workbook(head, ['x', null, { formula: '1/0', result: { error: '#DIV/0!' } } as never]);
  await expect(rowsOfSheet(wrong)).rejects.toMatchObject({ problem: { why: expect.stringContaining('C2') } });
  await expect(rowsOfSheet(await send('title\nx\n'))).rejects.toMatchObject({
    problem: { why: 'it is not a spreadsheet' },
  });
  await expect(rowsOfSheet(await send('PK\u0003\u0004 cut off'))).rejects.toMatchObject({
    problem: { why: expect.stringContaining('cut off') },
  });
  expect(left()).toEqual(before);
});
