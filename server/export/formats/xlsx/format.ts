import { TZDate } from '@date-fns/tz';
import type ExcelJS from 'exceljs';
import type { FieldType } from '#core/value/field/types.ts';
import type { Cell } from '#core/value/field/value.ts';
import type { ExportFormat, Sheet, Stream } from '../../format.ts';

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
  { title, scope, at, fields, zone }: Sheet,
  stream: Stream,
): Promise<void> {
  // Read only where somebody wants one: it is large.
  const { default: excel } = await import('exceljs');
  const workbook = new excel.stream.xlsx.WorkbookWriter({ filename: file, useStyles: true });
  const about = workbook.addWorksheet('About');
  for (const row of [
    ['Title', title],
    ...(scope === null ? [] : [['Scope', scope]]),
    ['Downloaded at', at.toISOString()],
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

export const xlsx: ExportFormat = {
  media: 'application/vnd.openxmlformats-officedocument.spreadsheetml.sheet',
  write: writeWorkbook,
};
