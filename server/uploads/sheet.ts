import { once } from 'node:events';
import { createReadStream, createWriteStream } from 'node:fs';
import { open } from 'node:fs/promises';
import type ExcelJS from 'exceljs';
import { Open } from 'unzipper';
import type { FileReading } from '#core/dataset/upload.ts';
import { ProblemError } from '#core/value/problem/problem.ts';

export type SheetReading = Extract<FileReading, { kind: 'sheet' }>;

const refused = (why: string, mend: string): ProblemError =>
  new ProblemError({ code: 'bad-request', doing: 'reading the spreadsheet', why, mend });

const cannotOpen = (why: string): ProblemError =>
  refused(
    `it cannot be opened (${why})`,
    'Open it in a spreadsheet program, save it as XLSX, and upload that; one with a password cannot be read.',
  );

/** Says of whatever was thrown that the file cannot be opened. */
function inOurWords(thrown: unknown): never {
  if (thrown instanceof ProblemError) throw thrown;
  throw cannotOpen(thrown instanceof Error ? thrown.message.slice(0, 160) : String(thrown));
}

const mostBytes = 2_000_000_000;
const mostColumns = 1600;
/** The header is looked for among this many rows. */
const headerWithin = 20;

/** A cell as text: dates as ISO 8601, formulas as what they came to, numbers with the digits that a double has. */
function textOf(value: ExcelJS.CellValue): string {
  if (value === null || value === undefined || errorOf(value) !== null) return '';
  if (value instanceof Date) {
    const text = value.toISOString();
    return text.endsWith('T00:00:00.000Z') ? text.slice(0, 10) : text.replace('.000Z', 'Z');
  }
  if (typeof value !== 'object') return String(value);
  if ('result' in value) return textOf(value.result as ExcelJS.CellValue);
  if ('richText' in value) return value.richText.map(({ text }) => text).join('');
  if ('text' in value) return textOf(value.text as ExcelJS.CellValue);
  return '';
}

/** What a cell says instead of a value, such as #DIV/0!; null where it holds a value. */
function errorOf(value: ExcelJS.CellValue): string | null {
  if (value === null || value === undefined || typeof value !== 'object') return null;
  if ('error' in value) return String(value.error);
  if (!('result' in value)) return null;
  return errorOf(value.result as ExcelJS.CellValue);
}

/** The reader takes what a formula came to for a number, which an error is not; it says so only in its model of the cell. */
function isFailedFormula(value: ExcelJS.CellValue, row: ExcelJS.Row, column: number): boolean {
  if (value === null || typeof value !== 'object' || !('formula' in value)) return false;
  return Number.isNaN((row.getCell(column).model as { result?: unknown }).result);
}

/** Days from the first of a spreadsheet's calendar to 1970. */
const firstDay = 25_569;

/** What a formula came to as a date where its cell is shown as one: the reader gives the number of the day. */
function dated(value: ExcelJS.CellValue, row: ExcelJS.Row, column: number): ExcelJS.CellValue {
  if (value === null || typeof value !== 'object' || !('result' in value)) return value;
  const { result } = value;
  const format = row.getCell(column).numFmt ?? '';
  const isDate = /[ymdh]/i.test(format.replace(/"[^"]*"|\[[^\]]*\]|\\./g, ''));
  return typeof result === 'number' && Number.isFinite(result) && isDate
    ? new Date(Math.round((result - firstDay) * 86_400_000))
    : value;
}

/** A cell's place as people name it: "B7". */
function placeOf(column: number, row: number): string {
  let letters = '';
  for (let rest = column; rest > 0; rest = Math.floor((rest - 1) / 26))
    letters = String.fromCharCode(65 + ((rest - 1) % 26)) + letters;
  return `${letters}${row}`;
}

/** A last row that adds up those above it: its first text says so. */
const isTotal = (row: readonly string[]): boolean =>
  /^(grand |sub-?)?(totals?|sum)\b/i.test(row.find((text) => text.trim() !== '')?.trim() ?? '');

/** Cells that hold an error instead of a value, which are blank: how many, and the first of them. */
export interface CellErrors {
  count: number;
  readonly examples: { place: string; error: string }[];
}
const mostErrors = 20;

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

/** Bytes of texts and styles, unpacked, which are all held while the sheets are read; beyond that the memory of the process is. */
const mostHeld = 64_000_000;

/** Refuses a workbook whose texts would take the memory of the process, before any of them is held: with it full, all takes long. */
async function refuseLargeTexts(file: string): Promise<void> {
  const { files } = await Open.file(file);
  let seen = 0;
  for (const entry of files) {
    if (!/(^|\/)(sharedStrings|styles)\.xml$/i.test(entry.path)) continue;
    for await (const piece of entry.stream()) {
      seen += (piece as Buffer).length;
      if (seen > mostHeld)
        throw refused('the texts in it are larger than 64 MB', 'Save the sheet as CSV, and upload that.');
    }
  }
}

/**
 * Writes one sheet of a workbook as CSV, a row at a time. The header is the row said, else the first of the first rows that
 * has as many texts as any of them. Gives how it was read, with the names of all sheets and the cells that hold errors. Throws
 * a {@link ProblemError}.
 */
export async function sheetAsCsv(
  file: string,
  wish: SheetReading,
  into: string,
): Promise<{ reading: SheetReading; sheets: string[]; errors: CellErrors }> {
  if (!(await isWhole(file))) throw cannotOpen('it is cut off, or no spreadsheet at all');
  await refuseLargeTexts(file).catch(inOurWords);
  // Read only where there is a spreadsheet: it is large.
  const { default: excel } = await import('exceljs');
  const reader = new excel.stream.xlsx.WorkbookReader(createReadStream(file), {
    sharedStrings: 'cache',
    styles: 'cache',
    hyperlinks: 'ignore',
    worksheets: 'emit',
    entries: 'ignore',
  });
  const sheets: string[] = [];
  let read: SheetReading | null = null;
  const errors: CellErrors = { count: 0, examples: [] };
  try {
    for await (const sheet of reader) {
      // The stream knows the name, though its type does not say so.
      const name = String((sheet as unknown as { name?: string }).name ?? `Sheet ${sheets.length + 1}`);
      sheets.push(name);
      const isWanted =
        read === null && (wish.sheet === undefined ? !/^about$/i.test(name) : wish.sheet === name);
      if (isWanted) read = { kind: 'sheet', sheet: name, ...(await writeSheet(sheet, wish, into, errors)) };
      else for await (const _ of sheet) if (read !== null) break;
    }
  } catch (thrown) {
    inOurWords(thrown);
  }
  if (!read)
    throw refused(
      wish.sheet === undefined ? 'it has no sheets' : `it has no sheet “${wish.sheet}”`,
      'Choose another sheet.',
    );
  return { reading: read, sheets, errors };
}

async function writeSheet(
  sheet: AsyncIterable<ExcelJS.Row>,
  { header, total = 'left out' }: SheetReading,
  into: string,
  errors: CellErrors,
): Promise<Pick<SheetReading, 'header' | 'total'>> {
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
    for (const { number, texts: row } of first) if (number >= from) await take(row);
  };
  let isBegun = false;
  // The last row is known for what it is only once no other comes.
  let last: string[] | null = null;
  const take = async (texts: string[]): Promise<void> => {
    if (last) await write(last);
    last = texts;
  };
  try {
    for await (const row of sheet) {
      const values = Array.isArray(row.values) ? row.values.slice(1) : [];
      const texts = Array.from(values, (value, at) => textOf(dated(value as ExcelJS.CellValue, row, at + 1)));
      noteErrors(values as ExcelJS.CellValue[], row, errors);
      if (isBlank(texts)) continue;
      if (!isBegun) {
        first.push({ number: row.number, texts });
        if (first.length >= headerWithin && row.number >= from) {
          await begin();
          isBegun = true;
        }
      } else await take(texts);
    }
    if (!isBegun) await begin();
    const ending = last as string[] | null;
    const hasTotal = ending !== null && isTotal(ending);
    if (ending && !(hasTotal && total === 'left out')) await write(ending);
    return { header: from, ...(hasTotal ? { total } : {}) };
  } finally {
    out.end();
    await once(out, 'close');
  }
}

function noteErrors(values: readonly ExcelJS.CellValue[], row: ExcelJS.Row, errors: CellErrors): void {
  for (const [at, value] of values.entries()) {
    const error = errorOf(value) ?? (isFailedFormula(value, row, at + 1) ? 'a formula that failed' : null);
    if (error === null) continue;
    errors.count += 1;
    if (errors.examples.length < mostErrors)
      errors.examples.push({ place: placeOf(at + 1, row.number), error });
  }
}
