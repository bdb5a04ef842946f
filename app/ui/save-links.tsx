/** The files that records can be saved as, in the order in which they are offered. */
const fileFormats = [
  ['xlsx', 'Spreadsheet (XLSX)'],
  ['csv', 'CSV'],
  ['json', 'JSON, with what it shows'],
  ['ndjson', 'JSON, one record a line'],
  ['parquet', 'Parquet'],
] as const;

/** Links that save records, one for each kind of file. */
export function SaveLinks({ what, hrefOf }: { what: string; hrefOf: (format: string) => string }) {
  return (
    <>
      <h3 className="mb-2 text-small text-slate">{what}, as</h3>
      <ul>
        {fileFormats.map(([format, words]) => (
          <li key={format}>
            <a
              href={hrefOf(format)}
              download
              className="block min-h-8 border-b border-hair py-1.5 hover:bg-wash hover:text-accent"
            >
              {words}
            </a>
          </li>
        ))}
      </ul>
    </>
  );
}
