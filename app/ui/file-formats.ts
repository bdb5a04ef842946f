/** The files that records can be saved as, in the order in which they are offered. */
export const fileFormats = [
  ['xlsx', 'Spreadsheet (XLSX)'],
  ['csv', 'CSV'],
  ['json', 'JSON, with what it shows'],
  ['ndjson', 'JSON, one record a line'],
  ['parquet', 'Parquet'],
] as const;
