import type { ExportFormatName } from '#core/words/export-formats.ts';
import type { ExportFormat } from './format.ts';
import { csv } from './formats/csv/format.ts';
import { json } from './formats/json/format.ts';
import { ndjson } from './formats/ndjson/format.ts';
import { parquet } from './formats/parquet/format.ts';
import { xlsx } from './formats/xlsx/format.ts';

export const formats: { readonly [K in ExportFormatName]: ExportFormat } = {
  xlsx,
  csv,
  json,
  ndjson,
  parquet,
};
