import type { ReadBy } from '#core/value/format/format.ts';
import { capital } from '#core/words/capital.ts';
import { cycleWords } from '#core/words/cycle.ts';
import type { SheetPage } from '../../kind.ts';
import { lineWords, valueWords } from './head-words.ts';
import { headsOf } from './heads.ts';
import type { CrosstabBody, ShownLevel } from './kind.ts';
import { linesInView } from './lines.ts';
import type { Line } from './shape.ts';

/** What stands over the heads of the rows: "Route › Vessel". */
export const cornerWords = (down: readonly ShownLevel[]): string =>
  down
    .map(({ field: { label }, unit, cycle }) =>
      cycle ? capital(cycleWords[cycle]) : unit ? `${capital(unit)} of ${label.toLowerCase()}` : label,
    )
    .join(' › ');

/** A total of all, or of the values that stand under a head: closed, that head says what it is. */
export const totalWords = (line: Line, across: readonly ShownLevel[], clock: ReadBy): string =>
  line.values.length === 0 || line.children > 0 ? 'Total' : lineWords(line, across, clock);

/** A crosstab as a page of a spreadsheet: the rows and columns that are open, with their heads over what belongs to them. */
export function crosstabPage(
  { data, down, across, measures }: CrosstabBody,
  turned: ReadonlySet<string>,
  clock: ReadBy,
): SheetPage {
  const rows = linesInView('down', data.rows, turned);
  const columns = linesInView('across', data.columns, turned);
  const width = measures.length;
  const heads = headsOf(columns, across.length).map((level) =>
    level.map(({ from, columns: count, rows: deep, depth }) => {
      const line = columns[from]?.line ?? { values: [], children: 0 };
      const words =
        depth === null
          ? totalWords(line, across, clock)
          : valueWords(line.values[depth - 1], across[depth - 1], clock);
      const isWhole = depth !== line.values.length || line.partial === undefined;
      return {
        words: isWhole ? words : `${words} ${line.partial}`,
        from: from * width,
        columns: count * width,
        rows: deep,
      };
    }),
  );
  const measureHeads = columns.flatMap((_, at) =>
    measures.map(({ label, unit }, which) => ({
      words: unit ? `${label} (${unit})` : label,
      from: at * width + which,
      columns: 1,
      rows: 1,
    })),
  );
  return {
    corner: cornerWords(down),
    heads: width > 1 || across.length === 0 ? [...heads, measureHeads] : heads,
    columns: columns.flatMap(() => measures),
    rows: rows.map(({ line, at }) => ({
      words: line.partial ? `${lineWords(line, down, clock)} ${line.partial}` : lineWords(line, down, clock),
      depth: Math.max(0, line.values.length - 1),
      isTotal: line.values.length === 0 || line.children > 0,
      cells: columns.flatMap((column) =>
        measures.map((_, which) => data.cells[at]?.[column.at * width + which] ?? null),
      ),
    })),
  };
}
