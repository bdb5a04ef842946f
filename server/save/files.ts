import { randomUUID } from 'node:crypto';
import { createReadStream, mkdirSync, rmSync } from 'node:fs';
import { copyFile } from 'node:fs/promises';
import path from 'node:path';
import { Readable } from 'node:stream';
import type { ReadableStream as WebStream } from 'node:stream/web';
import { TZDate } from '@date-fns/tz';
import ExcelJS from 'exceljs';
import type { FieldType } from '#core/value/field/types.ts';
import { type Cell, cellText } from '#core/value/field/value.ts';
import { SegmentWriter } from '#engine/columnar/writer.ts';
import { cacheFolder } from '../kept/cache.ts';
import type { Sheet } from './save.ts';

/* Files that have to be whole before they can be sent: written to disk, a few thousand records at a time, then streamed. */

export type Stream = (take: (records: Cell[][]) => Promise<void>) => Promise<void>;

export const fileFormats = {
  parquet: { media: 'application/vnd.apache.parquet', write: writeParquet },
  xlsx: {
    media: 'application/vnd.openxmlformats-officedocument.spreadsheetml.sheet',
    write: writeWorkbook,
  },
} as const;

const idleMs = 120_000;

/** Writes a file and gives its bytes; the file is gone once they were taken, or nobody wants them any more. */
export async function writtenFile(
  ending: string,
  write: (file: string) => Promise<void>,
): Promise<ReadableStream<Uint8Array>> {
  const folder = path.join(cacheFolder(), `writing-${process.pid}-${randomUUID()}`);
  mkdirSync(folder, { recursive: true });
  const file = path.join(folder, `saved.${ending}`);
  try {
    await write(file);
  } catch (thrown) {
    rmSync(folder, { recursive: true, force: true });
    throw thrown;
  }
  const bytes = createReadStream(file);
  // What nobody takes for so long is given up.
  let seen = 0;
  const watch = setInterval(() => {
    if (bytes.bytesRead === seen) bytes.destroy();
    seen = bytes.bytesRead;
  }, idleMs);
  bytes.once('close', () => {
    clearInterval(watch);
    rmSync(folder, { recursive: true, force: true });
  });
  return Readable.toWeb(bytes) as WebStream<Uint8Array> as ReadableStream<Uint8Array>;
}

/** Parquet with the types of the fields; every digit is kept. */
async function writeParquet(file: string, { fields }: Sheet, stream: Stream): Promise<void> {
  const writer = await SegmentWriter.open(
    path.dirname(file),
    fields.map(({ name }) => name),
  );
  try {
    await stream((records) => writer.add(records.map((record) => record.map(cellText))));
    await writer.type(await writer.scaled(fields));
    await copyFile((await writer.writeOne(path.dirname(file))).file, file);
  } finally {
    writer.close();
  }
}

/** A sheet of a workbook has at most so many rows (ECMA-376 as all programs have it). */
const mostRows = 1_048_576;
/** A spreadsheet's numbers are doubles: what has more digits than they hold goes as text, unchanged. */
const mostDigits = 15;

const isExact = (text: string): boolean =>
  text.replace(/^[+-]?0*\.?0*/, '').replace(/[.]/g, '').length <= mostDigits;

function spreadsheetValue(cell: Cell, type: FieldType, zone: string): ExcelJS.CellValue {
  if (cell === null) return null;
  switch (type) {
    case 'integer':
    case 'decimal':
      return isExact(String(cell)) ? Number(cell) : String(cell);
    case 'float':
      return typeof cell === 'number' ? cell : Number(cell);
    case 'boolean':
      return cell === true || cell === 'true';
    case 'date':
      return new Date(`${cell}T00:00:00Z`);
    case 'instant': {
      // A spreadsheet knows no zones: the moment is written as the desk's clocks showed it.
      const local = new TZDate(Date.parse(String(cell)), zone);
      return new Date(local.getTime() - local.getTimezoneOffset() * 60_000);
    }
    default:
      // A text is stored as a text, so what looks like a formula is none.
      return String(cell);
  }
}

const formats: Partial<Record<FieldType, string>> = { date: 'yyyy-mm-dd', instant: 'yyyy-mm-dd hh:mm:ss' };

/** A workbook whose first sheet says what the records are of. */
async function writeWorkbook(
  file: string,
  { title, scope, savedAt, fields, zone }: Sheet,
  stream: Stream,
): Promise<void> {
  const workbook = new ExcelJS.stream.xlsx.WorkbookWriter({ filename: file, useStyles: true });
  const about = workbook.addWorksheet('About');
  for (const row of [
    ['Title', title],
    ...(scope === null ? [] : [['Scope', scope]]),
    ['Saved at', savedAt.toISOString()],
    ['Moments are those of', zone],
  ])
    about.addRow(row).commit();
  about.commit();
  let sheets = 0;
  let rows = mostRows;
  let sheet: ExcelJS.Worksheet | null = null;
  const next = (): ExcelJS.Worksheet => {
    sheet?.commit();
    sheets += 1;
    const made = workbook.addWorksheet(sheets === 1 ? 'Records' : `Records ${sheets}`);
    made.columns = fields.map(({ label, type }) => {
      const numFmt = formats[type];
      return { header: label, width: 18, ...(numFmt ? { style: { numFmt } } : {}) };
    });
    made.getRow(1).font = { bold: true };
    made.getRow(1).commit();
    rows = 1;
    return made;
  };
  await stream(async (records) => {
    for (const record of records) {
      if (sheet === null || rows >= mostRows) sheet = next();
      sheet
        .addRow(record.map((cell, at) => spreadsheetValue(cell, fields[at]?.type ?? 'text', zone)))
        .commit();
      rows += 1;
    }
  });
  (sheet ?? next()).commit();
  await workbook.commit();
}
