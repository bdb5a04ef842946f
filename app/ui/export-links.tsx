import { exportFormatNames, exportFormats } from '#core/words/export-formats.ts';

/** Links that download records, one for each format. */
export function ExportLinks({ what, hrefOf }: { what: string; hrefOf: (format: string) => string }) {
  return (
    <>
      <h3 className="mb-2 text-small text-slate">{what}, as</h3>
      <ul>
        {exportFormatNames.map((format) => (
          <li key={format}>
            <a
              href={hrefOf(format)}
              download
              className="block min-h-8 border-b border-hair py-1.5 hover:bg-wash hover:text-accent"
            >
              {exportFormats[format]}
            </a>
          </li>
        ))}
      </ul>
    </>
  );
}
