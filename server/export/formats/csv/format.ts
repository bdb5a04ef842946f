import type { ExportFormat } from '../../format.ts';
import { textWriter } from '../../text.ts';
import { csvLine } from './line.ts';

/** RFC 4180. */
export const csv: ExportFormat = {
  media: 'text/csv; charset=utf-8; header=present',
  write: textWriter({
    head: ({ fields }) =>
      csvLine(
        fields.map(({ label }) => label),
        fields.map(() => 'text'),
      ),
    records: ({ fields }, records) => {
      const types = fields.map(({ type }) => type);
      return records.map((record) => csvLine(record, types)).join('');
    },
    foot: '',
  }),
};
