import { exportFormatNames, exportFormats, pageFormat } from '#core/words/export-formats.ts';
import { here } from './here.ts';

const link = 'block min-h-8 border-b border-hair py-1.5 hover:bg-wash hover:text-accent';

/** Links that download records, one for each format. */
export function ExportLinks({
  what,
  hrefOf,
  asItLooks,
}: {
  what: string;
  hrefOf: (format: string) => string;
  /** What can be downloaded as it looks, where something can: "The numbers". */
  asItLooks?: string | undefined;
}) {
  return (
    <>
      {asItLooks && (
        <p className="mb-4">
          <a href={here(hrefOf(pageFormat))} download className={link}>
            {asItLooks}, as a spreadsheet that looks the same
          </a>
        </p>
      )}
      <h3 className="mb-2 text-small text-slate">{what}, as</h3>
      <ul>
        {exportFormatNames.map((format) => (
          <li key={format}>
            <a href={here(hrefOf(format))} download className={link}>
              {exportFormats[format]}
            </a>
          </li>
        ))}
      </ul>
    </>
  );
}
