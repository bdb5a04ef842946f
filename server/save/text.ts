import { csvLine } from '#core/value/csv.ts';
import type { Cell } from '#core/value/field/value.ts';
import type { Sheet } from './save.ts';

/** Pieces of a text file: what it begins with, records, what it ends with. */
interface TextFormat {
  readonly media: string;
  head(sheet: Sheet): string;
  records(sheet: Sheet, records: readonly (readonly Cell[])[], isFirst: boolean): string;
  readonly foot: string;
}

const object = ({ fields }: Sheet, record: readonly Cell[]): string =>
  JSON.stringify(Object.fromEntries(fields.map(({ name }, at) => [name, record[at] ?? null])));

export const textFormats: Record<'csv' | 'json' | 'ndjson', TextFormat> = {
  /** RFC 4180. */
  csv: {
    media: 'text/csv; charset=utf-8; header=present',
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
  },
  /** Says what the records are of. */
  json: {
    media: 'application/json; charset=utf-8',
    head: ({ title, scope, savedAt }) =>
      `{"title":${JSON.stringify(title)},${scope === null ? '' : `"scope":${JSON.stringify(scope)},`}"savedAt":${JSON.stringify(savedAt.toISOString())},"records":[`,
    records: (sheet, records, isFirst) =>
      records.map((record, at) => `${isFirst && at === 0 ? '\n' : ',\n'}${object(sheet, record)}`).join(''),
    foot: '\n]}\n',
  },
  ndjson: {
    media: 'application/x-ndjson; charset=utf-8',
    head: () => '',
    records: (sheet, records) => records.map((record) => `${object(sheet, record)}\n`).join(''),
    foot: '',
  },
};
