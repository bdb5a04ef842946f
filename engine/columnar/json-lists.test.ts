import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import fc from 'fast-check';
import { afterAll, expect, test } from 'vitest';
import { findLists, writeList } from './json-lists.ts';

const folder = mkdtempSync(path.join(tmpdir(), 'slate-lists-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));
const [file, into] = [path.join(folder, 'given.json'), path.join(folder, 'lines.ndjson')];

async function listOf(text: string, at: readonly string[], pieceBytes?: number): Promise<unknown[]> {
  writeFileSync(file, text);
  await writeList(file, at, into, pieceBytes);
  return readFileSync(into, 'utf8')
    .split('\n')
    .filter((line) => line.trim() !== '')
    .map((line) => JSON.parse(line));
}

const nameText = fc.string({ unit: 'grapheme', maxLength: 6 });

test('whatever a list holds is written one a line, as it was, however the document is laid out', async () => {
  await fc.assert(
    fc.asyncProperty(
      fc.array(nameText, { minLength: 1, maxLength: 3 }),
      fc.array(fc.jsonValue({ maxDepth: 3 }), { maxLength: 12 }),
      fc.dictionary(nameText, fc.jsonValue({ maxDepth: 2 }), { maxKeys: 3 }),
      fc.constantFrom(undefined, 1, '\t'),
      // However the file is cut into pieces.
      fc.integer({ min: 1, max: 40 }),
      async (at, values, beside, layout, pieceBytes) => {
        const document = at.reduceRight<unknown>(
          (inner, name) => ({
            ...Object.fromEntries(Object.entries(beside).filter(([key]) => key !== name)),
            [name]: inner,
          }),
          values,
        );
        const text = JSON.stringify(document, null, layout);
        expect(await listOf(text, at, pieceBytes)).toEqual(JSON.parse(JSON.stringify(values)) as unknown[]);
        const isCounted = values.filter(
          (each) => typeof each === 'object' && each !== null && !Array.isArray(each),
        );
        const lists = await findLists(file, pieceBytes);
        expect(lists.find((list) => JSON.stringify(list.at) === JSON.stringify(at))?.records ?? 0).toBe(
          isCounted.length,
        );
      },
    ),
    { numRuns: 300 },
  );
});

test('records one after the other, a bare list and bare values hold no lists, and a file that is cut off is left to whoever reads it', async () => {
  for (const text of ['{"a":[{}]}\n{"a":[{}]}', '[{"a":[{}]}]', '12', '"a"', '', '{"a": 1}']) {
    writeFileSync(file, text);
    expect([text, await findLists(file)]).toEqual([text, []]);
  }
  writeFileSync(file, '{"data": [{"n": 1}, {"n": 2');
  expect(await findLists(file)).toEqual([]);
});

test('the longest list comes first, and numbers keep their digits', async () => {
  const text =
    '{"meta": {"links": [{"rel": "next"}]}, "data": [{"n": 0.1000000000000000000001}, {"n": 12345678901234567890}]}';
  writeFileSync(file, text);
  expect(await findLists(file)).toEqual([
    { at: ['data'], records: 2 },
    { at: ['meta', 'links'], records: 1 },
  ]);
  await writeList(file, ['data'], into);
  expect(readFileSync(into, 'utf8')).toBe('{"n": 0.1000000000000000000001}\n {"n": 12345678901234567890}\n');
});
