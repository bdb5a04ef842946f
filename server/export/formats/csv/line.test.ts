import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { csvLine } from './line.ts';

/** A reader of RFC 4180, to read back what was written. */
function read(line: string): string[] {
  const cells: string[] = [];
  let at = 0;
  while (at < line.length) {
    let cell = '';
    if (line[at] === '"') {
      at += 1;
      for (;;) {
        if (line[at] === '"' && line[at + 1] === '"') {
          cell += '"';
          at += 2;
        } else if (line[at] === '"') {
          at += 1;
          break;
        } else {
          cell += line[at];
          at += 1;
        }
      }
    } else
      while (at < line.length && line[at] !== ',' && line[at] !== '\r') {
        cell += line[at];
        at += 1;
      }
    cells.push(cell);
    if (line[at] === '\r') break;
    at += 1;
    if (line[at] === '\r') {
      cells.push('');
      break;
    }
  }
  return cells;
}

describe('a line of CSV', () => {
  test('reads back as what was written, whatever is in the cells', () => {
    const text = fc.string({ unit: 'grapheme', maxLength: 12 }).filter((each) => !/^[=+\-@\t\r]/.test(each));
    fc.assert(
      fc.property(fc.array(text, { minLength: 1, maxLength: 5 }), (cells) => {
        expect(
          read(
            csvLine(
              cells,
              cells.map(() => 'text' as const),
            ),
          ),
        ).toEqual(cells);
      }),
      { numRuns: 2000 },
    );
  });

  test('never gives a spreadsheet a formula, and leaves negative numbers alone', () => {
    const types = ['text', 'text', 'decimal', 'text', 'integer'] as const;
    expect(csvLine(['=HYPERLINK("x")', '@sum', '-4.05', '+44', '-3'], types)).toBe(
      `"'=HYPERLINK(""x"")",'@sum,-4.05,'+44,-3\r\n`,
    );
  });

  test('tells blank from empty, and keeps every digit', () => {
    expect(csvLine([null, '', '12345678901234567890.10'], ['text', 'text', 'decimal'])).toBe(
      ',"",12345678901234567890.10\r\n',
    );
  });
});
