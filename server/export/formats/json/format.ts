import type { ExportFormat } from '../../format.ts';
import { jsonObject, textWriter } from '../../text.ts';

/** One JSON document, which says what the records are of. */
export const json: ExportFormat = {
  media: 'application/json; charset=utf-8',
  write: textWriter({
    head: ({ title, scope, at }) =>
      `{"title":${JSON.stringify(title)},${scope === null ? '' : `"scope":${JSON.stringify(scope)},`}"exportedAt":${JSON.stringify(at.toISOString())},"records":[`,
    records: (sheet, records, isFirst) =>
      records
        .map((record, at) => `${isFirst && at === 0 ? '\n' : ',\n'}${jsonObject(sheet, record)}`)
        .join(''),
    foot: '\n]}\n',
  }),
};
