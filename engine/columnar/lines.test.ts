import { DuckDBInstance } from '@duckdb/node-api';
import fc from 'fast-check';
import { expect, test } from 'vitest';
import { groupNames, patternOf } from '#core/dataset/log/formats.ts';
import { lineColumn, recordsSql } from './lines.ts';
import { literalText } from './quote.ts';

/* Lines of web servers are read in pieces, which is quicker; whatever is in them, it comes to the same as the whole pattern. */

const word = fc.constantFrom(
  '203.0.113.9',
  '-',
  'skerry',
  'a"b',
  '"',
  '""',
  'tab\tbed',
  'ünï',
  '\\"',
  "o'neil",
);
const request = fc.constantFrom(
  '"GET /x HTTP/1.1"',
  '"GET /x"',
  '"GET /x" 200"',
  '"GET /a"b HTTP/1.1"',
  '"GET /a" 200 HTTP/1.1"',
  '"POST /passages/PSG-1?x=\\" HTTP/2"',
  '"get /x HTTP/1.1"',
  '"GET  HTTP/1.1"',
  '"-"',
  '"GET /x HTTP/1.1 more"',
);
const tail = fc.constantFrom(
  '"-" "App/1"',
  '"https://x.example/" "App/4.1 (handheld)"',
  '"a\\"b" "c\\\\"',
  '"" ""',
  '"-" "App" more',
  '"-"',
  '"a" 200 5 "b" "c"',
  '',
);
const sane = fc.constantFrom(
  '203.0.113.9 - - [23/Nov/2026:06:40:00 +0000] "GET /x HTTP/1.1" 200 5',
  '203.0.113.9 - rona [23/Nov/2026:06:40:00 +0000] "POST /a" 503 -',
);
const odd = fc
  .tuple(
    fc.array(word, { minLength: 2, maxLength: 4 }),
    fc.constantFrom('[23/Nov/2026:06:40:00 +0000]', '[a"b]', '[]', '23/Nov', '[x] y'),
    request,
    fc.constantFrom('200', '20', '2000', 'abc', '503'),
    fc.constantFrom('5123', '-', '', '1 2'),
    tail,
  )
  .map(([words, time, asked, status, bytes, rest]) =>
    [...words, time, asked, status, bytes, ...(rest ? [rest] : [])].join(' '),
  );

const line = fc.oneof(
  odd,
  fc.tuple(sane, tail).map(([head, rest]) => (rest ? `${head} ${rest}` : head)),
);

test.each(['common', 'combined'] as const)(
  'a line in %s format is the same record in pieces as whole',
  async (kind) => {
    const instance = await DuckDBInstance.create(':memory:', { threads: '1' });
    const connection = await instance.connect();
    const columns = groupNames(patternOf({ kind }) ?? '').map((name) => ({
      column: name,
      name,
      type: 'text' as const,
    }));
    const read = async (lines: readonly string[], isJoined: boolean): Promise<unknown[][]> => {
      const table = `SELECT unnest([${lines.map(literalText).join(', ')}]) AS ${lineColumn}`;
      const sql = recordsSql(table, { line: { kind }, isJoined, columns });
      return (await connection.runAndReadAll(sql)).getRows();
    };
    const fits = kind === 'common' ? '' : ' "-" "App/1"';
    const good = `203.0.113.9 - - [23/Nov/2026:06:40:00 +0000] "GET /x HTTP/1.1" 200 5${fits}`;
    expect((await read([good], false))[0]?.slice(0, 4)).toEqual([good, true, '203.0.113.9', null]);
    let fitting = 0;
    await fc.assert(
      fc.asyncProperty(fc.array(line, { minLength: 40, maxLength: 40 }), async (lines) => {
        const pieces = await read(lines, false);
        expect(pieces).toEqual(await read(lines, true));
        fitting += pieces.filter(([, isFit]) => isFit === true).length;
      }),
      { numRuns: 25 },
    );
    expect(fitting).toBeGreaterThan(20);
    connection.closeSync();
    instance.closeSync();
  },
);
