import { once } from 'node:events';
import { createReadStream, createWriteStream } from 'node:fs';
import { open } from 'node:fs/promises';
import ExcelJS from 'exceljs';
import type { FileReading } from '#core/dataset/upload.ts';
import { ProblemError } from '#core/problem/problem.ts';

export type SheetReading = Extract<FileReading, { kind: 'sheet' }>;

const refused = (why: string, mend: string): ProblemError =>
  new ProblemError({ code: 'bad-request', doing: 'reading the spreadsheet', why, mend });

const cannotOpen = (why: string): ProblemError =>
  refused(
    `it cannot be opened (${why})`,
    'Open it in a spreadsheet program, save it as XLSX, and upload that; one with a password cannot be read.',
  );

const mostBytes = 2_000_000_000;
const mostColumns = 1600;
/** The header is looked for among so many rows. */
const headerWithin = 20;

/** A cell as text: dates as ISO 8601, formulas as what they came to, numbers with the digits that a double has. */
function textOf(value: ExcelJS.CellValue): string {
  if (value === null || value === undefined) return '';
  if (value instanceof Date) {
    const text = value.toISOString();
    return text.endsWith('T00:00:00.000Z') ? text.slice(0, 10) : text.replace('.000Z', 'Z');
  }
  if (typeof value !== 'object') return String(value);
  if ('result' in value) return textOf(value.result as ExcelJS.CellValue);
  if ('richText' in value) return value.richText.map(({ text }) => text).join('');
  if ('text' in value) return textOf(value.text as ExcelJS.CellValue);
  if ('error' in value) return String(value.error);
  return '';
}

const isBlank = (row: readonly string[]): boolean => row.every((text) => text.trim() === '');

/** A packed file ends with its list of contents; one that is cut off has none, and reading it would wait for ever. */
async function isWhole(file: string): Promise<boolean> {
  const handle = await open(file);
  try {
    const { size } = await handle.stat();
    const length = Math.min(size, 65_557);
    const { buffer } = await handle.read(Buffer.alloc(length), 0, length, size - length);
    return buffer.includes('PK\u0005\u0006');
  } finally {
    await handle.close();
  }
}

/**
 * Writes one sheet of a workbook as CSV, a row at a time. The header is the row said, else the first of the first rows that
 * has as many texts as any of them. Gives how it was read, with the names of all sheets. Throws a {@link ProblemError}.
 */
export async function sheetAsCsv(
  file: string,
  asked: SheetReading,
  into: string,
): Promise<SheetReading & { sheets: string[] }> {
  if (!(await isWhole(file))) throw cannotOpen('it is cut off, or no spreadsheet at all');
  const reader = new ExcelJS.stream.xlsx.WorkbookReader(createReadStream(file), {
    sharedStrings: 'cache',
    styles: 'cache',
    hyperlinks: 'ignore',
    worksheets: 'emit',
    entries: 'ignore',
  });
  const sheets: string[] = [];
  let read: SheetReading | null = null;
  try {
    for await (const sheet of reader) {
      // The stream knows the name, though its type does not say so.
      const name = String((sheet as unknown as { name?: string }).name ?? `Sheet ${sheets.length + 1}`);
      sheets.push(name);
      const isWanted =
        read === null && (asked.sheet === undefined ? !/^about$/i.test(name) : asked.sheet === name);
      if (isWanted)
        read = { kind: 'sheet', sheet: name, header: await writeSheet(sheet, asked.header, into) };
      else for await (const _ of sheet) if (read !== null) break;
    }
  } catch (thrown) {
    if (thrown instanceof ProblemError) throw thrown;
    throw cannotOpen(thrown instanceof Error ? thrown.message.slice(0, 160) : String(thrown));
  }
  if (!read)
    throw refused(
      asked.sheet === undefined ? 'it has no sheets' : `it has no sheet “${asked.sheet}”`,
      'Choose another sheet.',
    );
  return { ...read, sheets };
}

async function writeSheet(
  sheet: AsyncIterable<ExcelJS.Row>,
  header: number | undefined,
  into: string,
): Promise<number> {
  const out = createWriteStream(into);
  let written = 0;
  const first: { number: number; texts: string[] }[] = [];
  let from = header ?? 0;
  let width = 0;
  const write = async (texts: readonly string[]): Promise<void> => {
    const cells = Array.from({ length: width }, (_, at) => texts[at] ?? '');
    // Written for ourselves to read, so nothing is neutralised.
    const line = `${cells.map((text) => `"${text.replaceAll('"', '""').replaceAll('\0', ' ')}"`).join(',')}\n`;
    written += line.length;
    if (written > mostBytes)
      throw refused('what is packed in it is larger than 2 GB', 'Save the sheet as CSV.');
    if (!out.write(line)) await once(out, 'drain');
  };
  const begin = async (): Promise<void> => {
    width = Math.min(mostColumns, Math.max(...first.map(({ texts }) => texts.length), 1));
    const texts = (row: readonly string[]): number =>
      row.filter((text) => text.trim() !== '' && !/^[-\d.]+$/.test(text)).length;
    if (header === undefined) {
      const most = Math.max(...first.map((row) => texts(row.texts)), 0);
      from = first.find((row) => texts(row.texts) === most)?.number ?? 1;
    }
    for (const { number, texts: row } of first) if (number >= from) await write(row);
  };
  let isBegun = false;
  try {
    for await (const row of sheet) {
      const values = Array.isArray(row.values) ? row.values.slice(1) : [];
      const texts = Array.from(values, (value) => textOf(value as ExcelJS.CellValue));
      if (isBlank(texts)) continue;
      if (!isBegun) {
        first.push({ number: row.number, texts });
        if (first.length >= headerWithin && row.number >= from) {
          await begin();
          isBegun = true;
        }
      } else await write(texts);
    }
    if (!isBegun) await begin();
  } finally {
    out.end();
    await once(out, 'close');
  }
  return from;
}
