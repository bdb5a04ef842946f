import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import fc from 'fast-check';
import { afterAll, describe, expect, test } from 'vitest';
import type { Cell } from '#core/value/field/value.ts';
import { stageFile } from './files.ts';
import type { WriterField } from './kept-field.ts';
import { isOfShape, shapeOfFirst } from './line-shape.ts';
import { SegmentWriter } from './writer.ts';

const folder = mkdtempSync(path.join(tmpdir(), 'slate-lines-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));

const file = path.join(folder, 'records.ndjson');
/** More than the lines that say how all are written. */
const many = (line: string): string => `${line}\n`.repeat(Math.ceil(300_000 / line.length));

async function isAlike(content: string | Buffer): Promise<boolean> {
  writeFileSync(file, content);
  const shape = await shapeOfFirst(file);
  return shape !== null && (await isOfShape(file, shape));
}

const usual = '{"id":7,"gate":"North","fare":12.50,"late":false}';

describe('files whose lines are all written alike', () => {
  test.each([
    ['lines of the same members', `${usual}\n${usual}\n`],
    ['no end of the last line', `${usual}\n${usual}`],
    ['ends of lines as Windows has them, and empty lines', `${usual}\r\n\r\n${usual}\r\n`],
    ['spaces where JSON may have them', '{ "id": 7, "gate": "North" }\n{"id":8,"gate":"South"}\n'],
    ['blanks anywhere', `${usual}\n${usual.replace('7', 'null').replace('"North"', 'null')}\n`],
    [
      'texts with quotes, line ends and other scripts',
      '{"gate":"a \\"b\\"\\n\\u00e9 Ærø 門"}\n{"gate":"}{,"}\n',
    ],
    ['names of members that mean something in patterns', '{"a.b*(c":1}\n{"a.b*(c":2}\n'],
    ['more than is read at once', many(usual)],
    [
      'a line longer than what is read at once',
      `${many(usual)}${usual.replace('North', '\\n'.repeat(200_000))}\n`,
    ],
  ])('%s', async (_, content) => {
    expect(await isAlike(content)).toBe(true);
  });

  const later = [
    ['another member', '{"id":7,"gate":"North","fare":12.50,"late":false,"cause":"fog"}'],
    ['a member less', '{"id":7,"gate":"North","fare":12.50}'],
    ['another order', '{"gate":"North","id":7,"fare":12.50,"late":false}'],
    ['a member twice', '{"id":7,"id":7,"gate":"North","fare":12.50,"late":false}'],
    ['a text where all had numbers', usual.replace('7', '"7"')],
    ['a number with a point where none had one', usual.replace('7', '7.5')],
    ['more digits after the point', usual.replace('12.50', '12.505')],
    ['more digits than a double keeps', usual.replace('12.50', '12345678901234.50')],
    ['more digits than an integer has', usual.replace('7', '1234567890123456789')],
    ['an exponent', usual.replace('12.50', '1e3')],
    ['a number that DuckDB writes with an exponent', usual.replace('12.50', '0.00005')],
    ['a number that JSON does not have', usual.replace('7', '007')],
    ['a list', usual.replace('"North"', '["North"]')],
    ['half a character', usual.replace('North', '\\ud800')],
    ['a character that texts of databases do not have', usual.replace('North', '\\u0000')],
    ['a record that is cut off', usual.slice(0, 20)],
    ['a text without end', usual.replace('North"', 'x'.repeat(300_000))],
    ['a record that is too long', usual.replace('North', 'x'.repeat(5_000_000))],
    ['two records on a line', usual + usual],
    ['no record', 'Total: 7'],
  ] as const;
  test.each(later)('not with %s far behind', async (_, line) => {
    expect(await isAlike(`${many(usual)}${line}\n${usual}\n`)).toBe(false);
    expect(await isAlike(`${many(usual)}${line}`)).toBe(false);
  });
  test.each(later)('not with %s at once', async (_, line) => {
    // Wherever they say so at once, members may be now this and now that, with as many digits as are safe.
    const mayDiffer = [
      usual.replace('7', '"7"'),
      usual.replace('7', '7.5'),
      usual.replace('12.50', '12.505'),
    ];
    expect(await isAlike(`${usual}\n${line}\n${many(usual)}`)).toBe(mayDiffer.includes(line));
  });

  test.each([
    ['nothing', ''],
    ['one list of records', `[${usual},\n${usual}]`],
    ['values that are no records', '7\n8\n'],
    ['records without members', '{}\n{}\n'],
    ['records in records', '{"a":{"b":1}}\n'],
    ['numbers of more digits than are kept', '{"a":1.1234567890123456}\n'],
  ])('not %s', async (_, content) => {
    expect(await isAlike(content)).toBe(false);
  });
});

/** The records of a file, of the types said. */
async function typed(fields: readonly WriterField[], content: string): Promise<Cell[][]> {
  writeFileSync(file, content);
  const writer = await SegmentWriter.open(folder);
  try {
    await stageFile(writer, file, { kind: 'json', at: [] });
    await writer.type(await writer.scaled(fields), { strictly: true });
    return await writer.typedFirst(1_000);
  } finally {
    writer.close();
  }
}

const digits = fc
  .integer({ min: 0, max: 4 })
  .chain((places) =>
    fc.tuple(fc.bigInt({ min: -(10n ** 11n) + 1n, max: 10n ** 11n - 1n }), fc.constant(places)),
  );

/** A number with this many digits after its point, as JSON has it. */
function decimalText(value: bigint, places: number): string {
  const text = (value < 0n ? -value : value).toString().padStart(places + 1, '0');
  const sign = value < 0n ? '-' : '';
  return places === 0 ? sign + text : `${sign}${text.slice(0, -places)}.${text.slice(-places)}`;
}

test('what is read as the numbers that a file has is what its texts would have become', async () => {
  const fields: WriterField[] = [
    { name: 'whole', type: 'integer' },
    { name: 'part', type: 'decimal' },
    { name: 'late', type: 'boolean' },
    { name: 'gate', type: 'text' },
  ];
  const record = fc.record({
    whole: fc.option(fc.bigInt({ min: -(10n ** 18n) + 1n, max: 10n ** 18n - 1n })),
    part: fc.option(digits),
    late: fc.option(fc.boolean()),
    gate: fc.option(fc.string({ unit: 'grapheme', maxLength: 6 })),
  });
  let alike = 0;
  await fc.assert(
    fc.asyncProperty(fc.array(record, { minLength: 1, maxLength: 30 }), async (records) => {
      const lines = records.map(({ whole, part, late, gate }) => {
        const said = part ? decimalText(...part) : 'null';
        return `{"whole":${whole},"part":${said},"late":${late},"gate":${JSON.stringify(gate)}}`;
      });
      // A member that only the last line has makes the file one that is read as texts.
      const asTexts = [...lines, '{"other":1}'].join('\n');
      alike += Number(await isAlike(lines.join('\n')));
      const own = await typed(fields, lines.join('\n'));
      expect(own).toEqual((await typed(fields, asTexts)).slice(0, lines.length));
      expect(own.map(([whole]) => whole)).toEqual(records.map(({ whole }) => whole?.toString() ?? null));
    }),
    { numRuns: 60 },
  );
  expect(alike).toBeGreaterThan(20);
});

test('a number is a text, or of fewer digits, where somebody says so', async () => {
  const content = '{"id":7,"fare":12.50}\n{"id":80,"fare":5.25}\n';
  expect(
    await typed(
      [
        { name: 'id', type: 'text' },
        { name: 'fare', type: 'text' },
      ],
      content,
    ),
  ).toEqual([
    ['7', '12.5'],
    ['80', '5.25'],
  ]);
  const writer = await SegmentWriter.open(folder);
  await stageFile(writer, file, { kind: 'json', at: [] });
  await writer.type([{ name: 'fare', type: 'decimal', scale: 1, digits: 18 }], { strictly: true });
  await expect(writer.typedFirst(2)).rejects.toThrow('“fare” as decimal: 5.25');
  writer.close();
});

test('a column that is read by a form is read from its texts, whatever the file has', async () => {
  writeFileSync(file, '{"fare":1250.5}\n{"fare":7.25}\n');
  const writer = await SegmentWriter.open(folder);
  await stageFile(writer, file, { kind: 'json', at: [] });
  await writer.form(new Map([['fare', 'thousands']]));
  await writer.type([{ name: 'fare', type: 'decimal', scale: 2, digits: 18 }]);
  expect(await writer.typedFirst(2)).toEqual([['1250.5'], ['7.25']]);
  writer.close();
});
