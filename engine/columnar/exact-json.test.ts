import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import fc from 'fast-check';
import { afterAll, expect, test } from 'vitest';
import { mayHoldLong } from './exact-json.ts';

const folder = mkdtempSync(path.join(tmpdir(), 'slate-exact-'));
afterAll(() => rmSync(folder, { recursive: true }));
let files = 0;
async function isLong(text: string): Promise<boolean> {
  files += 1;
  const file = path.join(folder, `${files}.json`);
  writeFileSync(file, text);
  return mayHoldLong(file);
}

test('a number of too many digits or a tiny one is found wherever it stands in a file, and none is where there is none', async () => {
  const digits = fc.oneof(
    fc.string({ unit: fc.constantFrom(...'0123456789.'), minLength: 1, maxLength: 30 }),
    fc.stringMatching(/^0\.0{2,6}[0-9]{0,4}$/),
  );
  await fc.assert(
    fc.asyncProperty(
      fc.array(
        fc.record({ n: digits, space: fc.constantFrom('', ' ', ' -', '\n\t-'), quoted: fc.boolean() }),
      ),
      fc.nat(40),
      async (members, shift) => {
        const parts = members.map(({ n, space, quoted }) =>
          quoted ? `${space.replace('-', '')}"${n}"` : `${space}${n}`,
        );
        const text = `{"${'x'.repeat(shift)}":${parts.join(',"a":')}}`;
        const isThere = members.some(
          ({ n, quoted }) => !quoted && (n.length >= 17 || (n.startsWith('0.0000') && n.length >= 7)),
        );
        expect(await isLong(text)).toBe(isThere);
      },
    ),
    { numRuns: 300 },
  );
});

test('a number of too many digits is found where two pieces of a file meet', async () => {
  for (let at = (1 << 20) - 40; at < (1 << 20) + 4; at += 1)
    expect(await isLong(`{"${'x'.repeat(at)}":1.2345678901234567}`)).toBe(true);
  expect(await isLong(`{"${'x'.repeat(1 << 21)}":1.25}`)).toBe(false);
});
