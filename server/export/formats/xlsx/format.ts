import { TZDate } from '@date-fns/tz';
import type ExcelJS from 'exceljs';
import type { SheetPage } from '#core/dashboard/pane/kind.ts';
import { bandOf } from '#core/value/field/band-of.ts';
import type { Field } from '#core/value/field/field.ts';
import type { FieldType, Tone } from '#core/value/field/types.ts';
import type { Cell } from '#core/value/field/value.ts';
import type { ExportFormat, Sheet, Stream } from '../../format.ts';

/** What a file says of what is in it. */
const aboutRows = ({
  title,
  scope,
  at,
  zone,
}: Pick<Sheet, 'title' | 'scope' | 'at' | 'zone'>): string[][] => [
  ['Title', title],
  ...(scope === null ? [] : [['Scope', scope]]),
  ['Downloaded at', at.toISOString()],
  ['Moments are those of', zone],
];

/** A sheet of a workbook has at most this many rows (ECMA-376 as all programs have it). */
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

/** The colours of tones on paper, ARGB. */
const toneColours: Readonly<Record<Tone, string>> = {
  settled: 'FF37626D',
  moving: 'FF2A5AA6',
  waiting: 'FF566873',
  slipping: 'FF8F5500',
  broken: 'FFA52A48',
};

/** A mark at the edge of a cell whose number lies in a band, in the colour of what that means. */
function markBand(cell: ExcelJS.Cell, value: Cell | undefined, bands: Field['bands']): void {
  const mark = bandOf(value, bands);
  if (mark) cell.border = { left: { style: 'thick', color: { argb: toneColours[mark.tone] } } };
}

/** A workbook whose first sheet says what the records are of. */
async function writeWorkbook(file: string, { fields, zone, ...of }: Sheet, stream: Stream): Promise<void> {
  // Read only where somebody wants one: it is large.
  const { default: excel } = await import('exceljs');
  const workbook = new excel.stream.xlsx.WorkbookWriter({ filename: file, useStyles: true });
  const about = workbook.addWorksheet('About');
  for (const row of aboutRows({ ...of, zone })) about.addRow(row).commit();
  about.commit();
  const banded = [...fields.keys()].filter((at) => fields[at]?.bands);
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
      const row = sheet.addRow(
        record.map((cell, at) => spreadsheetValue(cell, fields[at]?.type ?? 'text', zone)),
      );
      for (const at of banded) markBand(row.getCell(at + 1), record[at], fields[at]?.bands);
      row.commit();
      rows += 1;
    }
  });
  (sheet ?? next()).commit();
  await workbook.commit();
}

function numberFormat({ type, format }: SheetPage['columns'][number]): string | undefined {
  if (format?.kind === 'percent') return `0${format.decimals ? `.${'0'.repeat(format.decimals)}` : ''}%`;
  if (format?.kind === 'number' && format.decimals !== undefined)
    return `#,##0${format.decimals ? `.${'0'.repeat(format.decimals)}` : ''}`;
  return formats[type];
}

/** A workbook with a page as it looks: heads over what belongs to them, totals in bold, and a mark at the edge of what lies in a band. */
async function writePage(
  page: SheetPage,
  of: Pick<Sheet, 'title' | 'scope' | 'at' | 'zone'>,
): Promise<Uint8Array<ArrayBuffer>> {
  const { default: excel } = await import('exceljs');
  const workbook = new excel.Workbook();
  const sheet = workbook.addWorksheet('As it looks', {
    views: [{ state: 'frozen', xSplit: 1, ySplit: Math.max(1, page.heads.length) }],
  });
  sheet.getColumn(1).width = 32;
  const corner = sheet.getCell(1, 1);
  corner.value = page.corner;
  if (page.heads.length > 1) sheet.mergeCells(1, 1, page.heads.length, 1);
  for (const [level, heads] of page.heads.entries())
    for (const { words, from, columns, rows } of heads) {
      const [top, left] = [level + 1, from + 2];
      const head = sheet.getCell(top, left);
      head.value = words;
      head.alignment = { horizontal: columns > 1 ? 'left' : 'right', vertical: 'bottom', wrapText: true };
      if (columns > 1 || rows > 1) sheet.mergeCells(top, left, top + rows - 1, left + columns - 1);
    }
  for (let level = 1; level <= page.heads.length; level += 1) sheet.getRow(level).font = { bold: true };
  for (const { words, depth, isTotal, cells } of page.rows) {
    const row = sheet.addRow([
      words,
      ...cells.map((cell, at) => spreadsheetValue(cell, page.columns[at]?.type ?? 'text', of.zone)),
    ]);
    row.getCell(1).alignment = { indent: depth };
    if (isTotal) row.font = { bold: true };
    for (const [at, column] of page.columns.entries()) {
      const cell = row.getCell(at + 2);
      const numFmt = numberFormat(column);
      if (numFmt) cell.numFmt = numFmt;
      markBand(cell, cells[at], column.bands);
    }
  }
  const about = workbook.addWorksheet('About');
  for (const row of aboutRows(of)) about.addRow(row);
  return new Uint8Array(await workbook.xlsx.writeBuffer());
}

export const xlsx: ExportFormat = {
  media: 'application/vnd.openxmlformats-officedocument.spreadsheetml.sheet',
  write: writeWorkbook,
  writePage,
};
