/** The formats in which records can be downloaded, in the order in which they are offered, as people know them. */
export const exportFormats = {
  xlsx: 'Spreadsheet (XLSX)',
  csv: 'CSV',
  json: 'JSON, with what it shows',
  ndjson: 'JSON, one record a line',
  parquet: 'Parquet',
} as const;

export type ExportFormatName = keyof typeof exportFormats;

export const exportFormatNames = Object.keys(exportFormats) as ExportFormatName[];

/** A pane as it looks, as a spreadsheet: in an address beside the formats of records. */
export const pageFormat = 'page';
