import type { ExportFormat } from '../../format.ts';
import { jsonObject, textWriter } from '../../text.ts';

/** A JSON object a line. */
export const ndjson: ExportFormat = {
  media: 'application/x-ndjson; charset=utf-8',
  write: textWriter({
    head: () => '',
    records: (sheet, records) => records.map((record) => `${jsonObject(sheet, record)}\n`).join(''),
    foot: '',
  }),
};
