import {
  appendFileSync,
  copyFileSync,
  mkdirSync,
  mkdtempSync,
  renameSync,
  rmSync,
  symlinkSync,
  truncateSync,
  writeFileSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { gzipSync } from 'node:zlib';
import { afterAll, beforeEach, describe, expect, test } from 'vitest';
import type { LineFormat } from '#core/dataset/log/schema.ts';
import type { Request } from '#core/dataset/schema.ts';
import { problemOf } from '#core/value/problem/problem.ts';
import { SegmentWriter } from '#engine/columnar/writer.ts';
import { clean } from './follow.ts';
import { fetchLogs, testLogs, tryLogs } from './read.ts';

const root = mkdtempSync(path.join(tmpdir(), 'slate-logs-'));
let folder = '';
let made = 0;
beforeEach(() => {
  made += 1;
  folder = path.join(root, String(made));
  mkdirSync(folder);
});
afterAll(() => rmSync(root, { recursive: true, force: true }));

const at = (name: string): string => path.join(folder, name);
type LogRequest = Extract<Request, { kind: 'log' }>;
const request = (line: LineFormat, more: Partial<LogRequest> = {}): LogRequest => ({
  kind: 'log',
  files: '**',
  line,
  columns: [],
  ...more,
});
const attempt = (trial: LogRequest, find = false) => tryLogs(folder, [root], trial, find);
const why = async (work: Promise<unknown>): Promise<string> =>
  work.then(
    () => 'it worked',
    (thrown) => problemOf(thrown, 'testing').why,
  );

/** Fetches what is new; gives the records, what was rejected, and where it ended. */
async function follow(asked: LogRequest, position: unknown = null) {
  const fields = asked.columns.map(({ name, type }) => ({ name, type }));
  const writer = await SegmentWriter.open(
    root,
    fields.map(({ name }) => name),
  );
  try {
    const got = await fetchLogs(folder, [root])(writer, {
      request: asked,
      inputs: {},
      fields,
      position,
      doing: 'following',
      progress: async () => undefined,
    });
    await writer.type(await writer.scaled(fields));
    const rows = await writer.typedFirst(100_000);
    return { rows, position: got.position, rejected: await got.rejected?.(rows.length) };
  } finally {
    writer.close();
  }
}

const scan = (n: number): string =>
  `{"n":${n},"gate":"NRK-${n % 3}","at":"2026-11-23T06:40:${String(n % 60).padStart(2, '0')}Z"}`;
const json = request({ kind: 'json' }, { columns: [{ column: '/n', name: 'n', type: 'integer' }] });
const numbers = (rows: readonly (readonly unknown[])[]): number[] => rows.map(([n]) => Number(n));
const lines = (from: number, to: number): string =>
  Array.from({ length: to - from }, (_, index) => `${scan(from + index)}\n`).join('');

describe('the lines of a log', () => {
  const formats: [string, LineFormat, string, Record<string, unknown>][] = [
    ['JSON', { kind: 'json' }, scan(7), { n: '7', gate: 'NRK-1', at: '2026-11-23T06:40:07Z' }],
    [
      'pairs',
      { kind: 'pairs' },
      'time=2026-11-23T06:40:00Z vessel="Storm \\"P\\"" rpm=720 note=',
      { time: '2026-11-23T06:40:00Z', vessel: 'Storm "P"', rpm: '720', note: null },
    ],
    [
      'the combined format',
      { kind: 'combined' },
      '203.0.113.9 - isla [23/Nov/2026:06:40:00 +0200] "GET /p?x=1 HTTP/1.1" 503 - "-" "App \\"5\\""',
      {
        host: '203.0.113.9',
        user: 'isla',
        time: '2026-11-23T04:40:00Z',
        status: '503',
        bytes: null,
        referrer: null,
        agent: 'App \\"5\\"',
      },
    ],
    [
      'the common format',
      { kind: 'common' },
      '203.0.113.9 - - [23/Nov/2026:06:40:00 +0000] "GET / HTTP/1.0" 200 12',
      { bytes: '12', time: '2026-11-23T06:40:00Z', user: null },
    ],
    [
      'syslog',
      { kind: 'syslog' },
      '<165>1 2026-11-23T06:40:00.003Z gate-2 scan 11 ID7 [a@1 k="v \\] w"] door open',
      { priority: '165', host: 'gate-2', app: 'scan', data: '[a@1 k="v \\] w"]', message: 'door open' },
    ],
    [
      'values between bars',
      { kind: 'delimited', delimiter: '|', names: ['gate', 'took'] },
      'NRK-1| 12',
      { gate: 'NRK-1', took: '12' },
    ],
    [
      'values with quotes',
      { kind: 'delimited', delimiter: ',', names: ['at', 'who', 'said', 'code'] },
      '2026-11-27 16:16:15.349 UTC,"isla, ""the"" cook","a, b",',
      { at: '2026-11-27T16:16:15.349Z', who: 'isla, "the" cook', said: 'a, b', code: null },
    ],
    [
      'a pattern',
      { kind: 'pattern', pattern: '^(?<at>\\S+ \\S+) (?<level>[A-Z]+) (?<text>.*)$' },
      '2026-11-23 06:40:00,250 WARN low tide',
      { at: '2026-11-23T06:40:00.25Z', level: 'WARN', text: 'low tide' },
    ],
    [
      'a pattern with Unix times',
      { kind: 'pattern', pattern: '^(?<time>\\d+) (?<text>.*)$' },
      '1795416000000 x',
      { time: '2026-11-23T06:40:00Z', text: 'x' },
    ],
  ];
  test.each(formats)('in %s become records, with their fields marked', async (_, line, text, expected) => {
    writeFileSync(at('a.log'), `${text}\nnothing of the kind at all\n`);
    const tried = await attempt(request(line));
    const names = tried.fields.map(({ name }) => name);
    expect(
      Object.fromEntries(
        Object.keys(expected).map((name) => [name, tried.records[0]?.[names.indexOf(name)] ?? null]),
      ),
    ).toEqual(expected);
    expect(tried.lines).toMatchObject({ matched: 1, missed: 1 });
    const shown = tried.lines?.sample.find(({ marks }) => marks !== null);
    expect(shown?.marks?.length).toBeGreaterThan(0);
    for (const { from, to } of shown?.marks ?? []) expect(to).toBeGreaterThan(from);
  });

  test('are found to be in a format by themselves', async () => {
    writeFileSync(at('a.log'), lines(0, 20));
    expect((await attempt(request({ kind: 'pairs' }), true)).request).toMatchObject({
      line: { kind: 'json' },
    });
  });

  test('of values with quotes are found to be so, although some go on over a line end', async () => {
    const one = (n: number) => `2026-11-27 16:16:${n + 10}.349 UTC,isla,"asked, and told ""no"" ${n}",12\n`;
    writeFileSync(
      at('a.csv'),
      `${Array.from({ length: 20 }, (_, n) => one(n)).join('')}2026-11-27 16:17:00 UTC,isla,"select\n 1",13\n`,
    );
    const found = await attempt(request({ kind: 'pairs' }), true);
    const names = ['field_1', 'field_2', 'field_3', 'field_4'];
    expect(found.request).toMatchObject({ line: { kind: 'delimited', delimiter: ',', names } });
    expect(found.fields.map(({ type }) => type)).toEqual(['instant', 'text', 'text', 'integer']);
    expect(found.lines).toMatchObject({ matched: 20, missed: 2 });
    const joined = await attempt(
      request({ kind: 'delimited', delimiter: ',', names }, { first: '^\\d{4}-' }),
    );
    expect(joined.lines).toMatchObject({ matched: 21, missed: 0 });
    expect(joined.records.at(-1)).toEqual(['2026-11-27T16:17:00Z', 'isla', 'select\n 1', '13']);
  });

  test('are read by a pattern whose . stops where the line does, unless it is asked for', async () => {
    writeFileSync(at('a.log'), '1 fault\n  at pump\n2 well\n');
    const texts = async (pattern: string) =>
      (await attempt(request({ kind: 'pattern', pattern }, { first: '^\\d' }))).records.map(
        ([, text]) => text,
      );
    expect(await texts('^(?<n>\\d) (?<text>.*)')).toEqual(['fault', 'well']);
    expect(await texts('(?s)^(?<n>\\d) (?<text>.*)')).toEqual(['fault\n  at pump', 'well']);
  });

  test('are joined into one record by what the first looks like', async () => {
    writeFileSync(
      at('a.log'),
      '2026-11-23T06:40:00Z fault\n  at pump\n  at valve\n2026-11-23T06:41:00Z well\n',
    );
    const joined = request(
      { kind: 'pattern', pattern: '^(?<at>\\S+) (?s:(?<text>.*))$' },
      { first: '^\\d{4}-' },
    );
    const { records } = await attempt(joined);
    expect(records).toEqual([
      ['2026-11-23T06:40:00Z', 'fault\n  at pump\n  at valve'],
      ['2026-11-23T06:41:00Z', 'well'],
    ]);
  });

  test('say what is wrong with a pattern, and no pattern can hang', async () => {
    writeFileSync(at('a.log'), `${'a'.repeat(50_000)}!\n`);
    expect(await why(attempt(request({ kind: 'pattern', pattern: '(?<x>a' })))).toContain('missing )');
    expect(await why(attempt(request({ kind: 'pattern', pattern: 'abc' })))).toContain('names no field');
    expect(await why(attempt(request({ kind: 'pattern', pattern: '(?<x>a(?=b))' })))).toMatch(
      /invalid|perl/i,
    );
    // Tried by going back, this would take for ever.
    const { lines: read } = await attempt(request({ kind: 'pattern', pattern: '^(?<x>(a+)+)$' }));
    expect(read).toMatchObject({ matched: 0, missed: 1 });
  });
});

describe('log files', () => {
  test('are followed as they grow, each line once, a line without an end only when it has one', async () => {
    writeFileSync(at('a.log'), `${lines(0, 3)}{"n":3`);
    const first = await follow(json);
    expect(numbers(first.rows)).toEqual([0, 1, 2]);
    appendFileSync(at('a.log'), `}\n${lines(4, 6)}`);
    const second = await follow(json, first.position);
    expect(numbers(second.rows)).toEqual([3, 4, 5]);
    expect((await follow(json, second.position)).rows).toEqual([]);
  });

  test('are followed through being renamed, packed, copied and emptied', async () => {
    writeFileSync(at('a.log'), lines(0, 5));
    let { position } = await follow(json);
    // Renamed, with more written before and after.
    appendFileSync(at('a.log'), lines(5, 7));
    renameSync(at('a.log'), at('a.log.1'));
    writeFileSync(at('a.log'), lines(7, 9));
    const renamed = await follow(json, position);
    expect(numbers(renamed.rows).sort()).toEqual([5, 6, 7, 8]);
    // Packed: the same lines under another name and in another form.
    writeFileSync(at('a.log.1.gz'), gzipSync(`${lines(0, 7)}${scan(70)}`));
    rmSync(at('a.log.1'));
    const packed = await follow(json, renamed.position);
    expect(numbers(packed.rows)).toEqual([70]);
    // Copied and emptied in place.
    copyFileSync(at('a.log'), at('a.log.2'));
    truncateSync(at('a.log'));
    appendFileSync(at('a.log'), lines(9, 11));
    const emptied = await follow(json, packed.position);
    expect(numbers(emptied.rows)).toEqual([9, 10]);
    position = emptied.position;
    expect((await follow(json, position)).rows).toEqual([]);
  });

  test('keep what does not fit to look at, and count it', async () => {
    writeFileSync(at('a.log'), `${scan(1)}\nhalf a li\n{"n":"many"}\n${scan(2)}\n`);
    const { rows, rejected } = await follow(json);
    expect(numbers(rows)).toEqual([1, 2]);
    expect(rejected).toMatchObject({ count: 2 });
    expect(rejected?.examples.map(({ text }) => text)).toEqual(['half a li', '{"n":"many"}']);
  });

  test('may hold very long lines, NULs and two encodings', async () => {
    const long = `{"n":1,"x":"${'y'.repeat(100_000)}"}`;
    writeFileSync(
      at('a.log'),
      Buffer.concat([
        Buffer.from(`${long}\n{"n":2,"x":"a`),
        Buffer.from([0]),
        Buffer.from('b"}\n'),
        Buffer.from('{"n":3,"x":"caf'),
        Buffer.from([0xe9]),
        Buffer.from('"}\n'),
      ]),
    );
    const { rows } = await follow({
      ...json,
      columns: [...json.columns, { column: '/x', name: 'x', type: 'text' }],
    });
    expect(numbers(rows)).toEqual([1, 2, 3]);
    expect(rows.map(([, x]) => String(x).length)).toEqual([100_000, 3, 4]);
    expect(rows[2]?.[1]).toBe('café');
    expect(
      clean(Buffer.alloc(2_500_000, 0x61))
        .toString()
        .split('\n')
        .map((each) => each.length),
    ).toEqual([1_000_000, 1_000_000, 500_000, 0]);
  });

  test('that are packed and cut off give what there is of them', async () => {
    writeFileSync(at('a.gz'), gzipSync(lines(0, 2000)).subarray(0, 4000));
    const { rows } = await follow(json);
    expect(rows.length).toBeGreaterThan(10);
    expect(numbers(rows)).toEqual(Array.from({ length: rows.length }, (_, n) => n));
  });

  test('are read only in folders that are listed, whatever a link or a name says', async () => {
    writeFileSync(at('a.log'), lines(0, 1));
    symlinkSync('/etc/hostname', at('b.log'));
    const other = mkdtempSync(path.join(tmpdir(), 'slate-other-'));
    const now = () => new Date();
    expect((await testLogs(folder, [root], now)).facts).toContainEqual({ name: 'Files', value: '1' });
    expect(await why(testLogs(other, [root], now))).toContain('none of the folders that may be read');
    expect(await why(testLogs(`${folder}/../../..`, [root], now))).toContain('none of the folders');
    expect(await why(testLogs(folder, [], now))).toContain('no folder has been listed');
    expect(await why(testLogs(at('gone'), [root], now))).toContain('there is no folder');
    expect(await why(attempt(request({ kind: 'json' }, { files: '../**' })))).toContain(
      'no file of the folder',
    );
    rmSync(other, { recursive: true });
  });

  test('with records of several lines wait for the end of the last one', async () => {
    const joined = request(
      { kind: 'pattern', pattern: '^(?<n>\\d+) (?s:(?<text>.*))$' },
      {
        first: '^\\d+ ',
        columns: [
          { column: 'n', name: 'n', type: 'integer' },
          { column: 'text', name: 'text', type: 'text' },
        ],
      },
    );
    writeFileSync(at('a.log'), '1 a\n  more\n2 b\n');
    const first = await follow(joined);
    expect(first.rows).toEqual([['1', 'a\n  more']]);
    appendFileSync(at('a.log'), '  still\n3 c\n');
    expect((await follow(joined, first.position)).rows).toEqual([['2', 'b\n  still']]);
  });
});
