import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { gzipSync } from 'node:zlib';
import fc from 'fast-check';
import { afterAll, describe, expect, test } from 'vitest';
import { guessType } from '#core/dataset/kept/guess.ts';
import type { FileReading } from '#core/dataset/upload.ts';
import { stageFile } from './files.ts';
import type { Rejected } from './staged.ts';
import { SegmentWriter } from './writer.ts';

const folder = mkdtempSync(path.join(tmpdir(), 'slate-files-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));

interface Seen {
  readonly reading: FileReading;
  readonly rejected: Rejected;
  readonly names: readonly string[];
  readonly records: (string | null)[][];
  readonly types: Record<string, string>;
}

let made = 0;
async function see(
  content: string | Buffer,
  reading: FileReading = { kind: 'delimited' },
  ending = 'txt',
): Promise<Seen> {
  made += 1;
  const file = path.join(folder, `${made}.${ending}`);
  writeFileSync(file, content);
  const writer = await SegmentWriter.open(folder);
  try {
    const staged = await stageFile(writer, file, reading);
    const { looks } = await writer.looks();
    return {
      reading: staged.reading,
      rejected: await staged.rejected(),
      names: writer.names,
      records: await writer.first(20),
      types: Object.fromEntries([...looks].map(([name, each]) => [name, guessType(each).type])),
    };
  } finally {
    writer.close();
  }
}

test('a file of very many columns is looked at as one of few is', async () => {
  const kinds = [
    '7',
    '1.50',
    '2026-11-02',
    'yes',
    '007',
    '{"a":1}',
    '',
    '1e5',
    'fog',
    '2026-11-02T06:40:00Z',
  ];
  const names = Array.from({ length: 1600 }, (_, at) => `c${at}`);
  const file = (columns: readonly string[]): string =>
    `${columns.join(',')}\n${`${columns.map((_, at) => `"${(kinds[at % kinds.length] ?? '').replaceAll('"', '""')}"`).join(',')}\n`.repeat(3)}`;
  const few = await see(file(names.slice(0, kinds.length)), { kind: 'delimited', quote: '"' });
  const many = await see(file(names), { kind: 'delimited', quote: '"' });
  expect(Object.keys(many.types)).toHaveLength(1600);
  for (const [at, name] of names.entries())
    expect(many.types[name], name).toBe(few.types[`c${at % kinds.length}`]);
});

describe('a delimited file', () => {
  test('whose first quote comes late has no quotes in its values', async () => {
    const lines = Array.from({ length: 25_000 }, (_, at) => `${at},Holm`).join('\n');
    const seen = await see(`call,quay\n${lines}\n25000,"Skerry, north"\n`);
    expect(seen.reading).toMatchObject({ quote: '"' });
    expect(seen.rejected.count).toBe(0);
    expect(seen.names).toEqual(['call', 'quay']);
  });

  test('tells its delimiter, quotes and header by itself', async () => {
    const seen = await see('crew;course;passed_on\n1;"Fire; sea";2026-11-02\n2;Radio;2026-11-03\n');
    expect(seen.reading).toEqual({
      kind: 'delimited',
      delimiter: ';',
      quote: '"',
      header: true,
      skip: 0,
      encoding: 'utf-8',
    });
    expect(seen.names).toEqual(['crew', 'course', 'passed_on']);
    expect(seen.records[0]).toEqual(['1', 'Fire; sea', '2026-11-02']);
    expect(seen.types).toEqual({ crew: 'integer', course: 'text', passed_on: 'date' });
  });

  test('has the names of its header however they are written, and lines that end as on any system', async () => {
    const head = `o'clock,"a ""late"" call",quay,quay,`;
    for (const end of ['\n', '\r\n', '\r']) {
      const seen = await see(`${head}${end}1,"it's, ""so""",#2,b\\c,${end}`, {
        kind: 'delimited',
        header: true,
        delimiter: ',',
        quote: '"',
      });
      expect(seen.names).toEqual(["o'clock", 'a "late" call', 'quay', 'quay_1', 'column4']);
      expect(seen.records).toEqual([['1', 'it\'s, "so"', '#2', 'b\\c', null]]);
      expect(seen.rejected.count).toBe(0);
    }
  });

  test('of nothing but a header, or of nothing, has no records', async () => {
    expect(await see('crew,course\n', { kind: 'delimited', header: true })).toMatchObject({
      names: ['crew', 'course'],
      records: [],
    });
    expect((await see('')).records).toEqual([]);
  });

  test('with tabs, and with an encoding that is said, is read so', async () => {
    const tabs = await see('crew\tname\n1\tÆrø\n', { kind: 'delimited', delimiter: '\t', header: true });
    expect(tabs.records).toEqual([['1', 'Ærø']]);
    const latin = await see(Buffer.from('crew,name\n1,Ær\n', 'latin1'), {
      kind: 'delimited',
      encoding: 'latin-1',
      header: true,
    });
    expect(latin.records).toEqual([['1', 'Ær']]);
  });

  test('with ragged rows shows them with their lines, and reads the others', async () => {
    const seen = await see('crew,course\n1,Fire\n2\n3,Radio,extra,cells\n4,Fire\n', {
      kind: 'delimited',
      delimiter: ',',
      header: true,
    });
    expect(seen.records).toEqual([
      ['1', 'Fire'],
      ['4', 'Fire'],
    ]);
    expect(seen.rejected.count).toBe(2);
    expect(seen.rejected.examples.map(({ line, text }) => [line, text])).toEqual([
      [3, '2'],
      [4, '3,Radio,extra,cells'],
    ]);
  });

  test('in two encodings shows the lines that are not in the one it is read in', async () => {
    const mixed = Buffer.concat([
      Buffer.from('crew,name\n1,Ærø\n'),
      Buffer.from('2,Ær\n', 'latin1'),
      Buffer.from('3,ok\n'),
    ]);
    const seen = await see(mixed, { kind: 'delimited', delimiter: ',', header: true });
    expect(seen.records.map(([crew]) => crew)).toEqual(['1', '3']);
    expect(seen.rejected.examples[0]).toMatchObject({ line: 3, why: expect.stringContaining('utf-8') });
  });

  test('with duplicate and empty headers, and NULs, has a name for every field and every letter', async () => {
    const seen = await see('crew,,crew\n1,a\0b,c\n', { kind: 'delimited', delimiter: ',', header: true });
    expect(new Set(seen.names).size).toBe(3);
    expect(seen.records).toEqual([['1', 'a\0b', 'c']]);
  });

  test('with a line of 100,000 characters is read; one without end is refused with why', async () => {
    const long = 'x'.repeat(100_000);
    const seen = await see(`crew,note\n1,${long}\n2,y\n`, {
      kind: 'delimited',
      delimiter: ',',
      header: true,
    });
    expect(seen.records[0]?.[1]).toHaveLength(100_000);
    const endless = await see(`crew,note\n1,${'x'.repeat(20_000_000)}\n2,y\n`, {
      kind: 'delimited',
      delimiter: ',',
      header: true,
    }).catch((thrown: Error) => thrown.message);
    expect(JSON.stringify(endless)).toMatch(/line/i);
  });

  test('that is empty has no records and breaks nothing', async () => {
    expect((await see('')).records).toEqual([]);
  });

  test('keeps codes with zeros in front, numbers kept as text, and every digit', async () => {
    const seen = await see('code,fare,mixed\n007,12345678901234567890.123456789,1\n008,0.10,x\n', {
      kind: 'delimited',
      delimiter: ',',
      header: true,
    });
    expect(seen.types).toEqual({ code: 'text', fare: 'decimal', mixed: 'text' });
    expect(seen.records[0]?.[1]).toBe('12345678901234567890.123456789');
  });

  test('packed with gzip is read as what is in it', async () => {
    const seen = await see(gzipSync('crew,course\n1,Fire\n'), { kind: 'delimited', header: true }, 'csv.gz');
    expect(seen.records).toEqual([['1', 'Fire']]);
  });
});

describe('a JSON file', () => {
  const json = { kind: 'json' as const };

  test('may be a list, records one after the other, or one record', async () => {
    const list = await see('[{"crew":1,"course":"Fire"},{"crew":2}]', json);
    expect(list.records).toEqual([
      ['1', 'Fire'],
      ['2', null],
    ]);
    expect((await see('{"crew":1}\n{"crew":2}\n', json)).records).toEqual([['1'], ['2']]);
    expect((await see('{"crew":1}', json)).records).toEqual([['1']]);
  });

  test('keeps what is nested as JSON, and finds fields that come late', async () => {
    const seen = await see('[{"crew":1,"marks":[{"a":1}]},{"crew":2,"late":true}]', json);
    expect(seen.types).toMatchObject({ crew: 'integer', marks: 'nested', late: 'boolean' });
  });

  test('that is a bare number, or cut off half-way, is refused with why', async () => {
    await expect(see('42', json)).rejects.toThrow('only bare values');
    await expect(see('[{"crew":1},{"crew":', json)).rejects.toThrow(/unexpected end/i);
  });

  test('300 levels deep is one nested value', async () => {
    const deep = `[{"crew":1,"deep":${'['.repeat(300)}${']'.repeat(300)}}]`;
    expect((await see(deep, json)).records[0]?.[1] ?? '').toContain('[[[');
  });

  test('with names that hold slashes, tildes, quotes and dots keeps them', async () => {
    const seen = await see('[{"a/b":1,"c~d":2,"e\\"f":3,"g.h":4}]', json);
    expect(new Set(seen.names)).toEqual(new Set(['a/b', 'c~d', 'e"f', 'g.h']));
    expect(seen.records[0]?.map(Number).sort()).toEqual([1, 2, 3, 4]);
  });
});

test('what does not fit a type is counted, with examples', async () => {
  const file = path.join(folder, 'misfits.csv');
  writeFileSync(file, 'hours\n1\n2\nn/a\n\n3.5\n');
  const writer = await SegmentWriter.open(folder);
  await stageFile(writer, file, { kind: 'delimited', delimiter: ',', header: true });
  expect(await writer.misfits('hours', 'decimal')).toEqual({ count: 1, examples: ['n/a'] });
  expect((await writer.misfits('hours', 'integer')).examples).toContain('n/a');
  writer.close();
});

test('numbers of JSON keep every digit, at the top and inside, and what only looks like one in a text is left alone', async () => {
  const long = '0.12345678901234567890';
  const { records: small } = await see(
    '{"a":10.00001,"b":-0.00001,"c":[0.00002,-100.00003],"d":"0.00004, 1"}\n{"a":1}\n',
    { kind: 'json' },
  );
  expect(small[0]).toEqual(['10.00001', '-0.00001', '["0.00002",-100.00003]', '0.00004, 1']);
  const { records, types } = await see(
    `{"id":1,"level":${long},"note":"at, ${long}, \\"${long}\\"","readings":[{"v":-1234567890123456.125,"w":1.5}],"n":18446744073709551616}
{"id":2,"level":2.5,"note":"[1.5","readings":[{"v":3}],"n":7}\n`,
    { kind: 'json' },
  );
  expect(records).toEqual([
    ['1', long, `at, ${long}, "${long}"`, '[{"v":"-1234567890123456.125","w":1.5}]', '18446744073709551616'],
    ['2', '2.5', '[1.5', '[{"v":3}]', '7'],
  ]);
  expect(types).toMatchObject({ level: 'decimal', note: 'text', readings: 'nested' });
});

test('a number that JSON writes with any digits is read with the same ones', async () => {
  const digits = fc.stringMatching(/^[1-9][0-9]{0,18}$/);
  const number = fc
    .tuple(
      fc.constantFrom('', '-'),
      fc.oneof(digits, fc.constant('0')),
      fc.oneof(fc.stringMatching(/^[0-9]{0,19}[1-9]$/), fc.stringMatching(/^0{3,9}[0-9]{0,3}[1-9]$/)),
    )
    .map(([sign, whole, part]) => `${sign}${whole}.${part}`);
  const around = fc.constantFrom(
    '"b":"x"',
    '"b":"1, 0.12345678901234567"',
    '"b":"\\\\"',
    '"b":"\\",1.5"',
    '"b":[1, 2.5]',
  );
  await fc.assert(
    fc.asyncProperty(fc.array(fc.tuple(number, around), { minLength: 1, maxLength: 40 }), async (given) => {
      const { records } = await see(given.map(([value, more]) => `{"a":${value},${more}}`).join('\n'), {
        kind: 'json',
      });
      expect(records.map(([value]) => value).slice(0, 20)).toEqual(
        given.map(([value]) => value).slice(0, 20),
      );
    }),
    { numRuns: 20 },
  );
});

test('a nested value keeps the digits of its numbers when it is written, whatever it came from', async () => {
  const writer = await SegmentWriter.open(folder, ['more']);
  try {
    await writer.add([['[{"level":0.12345678901234567890}]'], ['{"level":1.25}']]);
    await writer.type([{ name: 'more', type: 'nested' }]);
    const [segment] = await writer.write(folder);
    const read = await writer.ask(
      `SELECT json_extract_string(more, ['/0/level', '/level']) FROM read_parquet('${segment?.file}')`,
    );
    expect(read.map((row) => String(row[0]))).toEqual(["['0.12345678901234567890', NULL]", "[NULL, '1.25']"]);
  } finally {
    writer.close();
  }
});

test('an empty text is written as a blank, so that nobody has to look for it later', async () => {
  const writer = await SegmentWriter.open(folder, ['gate', 'more']);
  try {
    await writer.add([
      ['', ''],
      ['NRK-1', '[]'],
      [null, null],
    ]);
    await writer.type([
      { name: 'gate', type: 'text' },
      { name: 'more', type: 'nested' },
    ]);
    const [segment] = await writer.write(folder);
    expect(await writer.ask(`SELECT gate, more FROM read_parquet('${segment?.file}')`)).toEqual([
      [null, null],
      ['NRK-1', '[]'],
      [null, null],
    ]);
  } finally {
    writer.close();
  }
});
