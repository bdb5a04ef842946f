import ArrowDown from 'lucide-react/icons/arrow-down';
import ArrowUp from 'lucide-react/icons/arrow-up';
import ChevronDown from 'lucide-react/icons/chevron-down';
import ChevronRight from 'lucide-react/icons/chevron-right';
import { pathWords, valueWords } from '#core/dashboard/pane/kinds/crosstab/head-words.ts';
import { headsOf } from '#core/dashboard/pane/kinds/crosstab/heads.ts';
import type { CrosstabBody } from '#core/dashboard/pane/kinds/crosstab/kind.ts';
import { isOpen, type Placed } from '#core/dashboard/pane/kinds/crosstab/lines.ts';
import { isOrderedBy } from '#core/dashboard/pane/kinds/crosstab/order.ts';
import { cornerWords, totalWords } from '#core/dashboard/pane/kinds/crosstab/page.ts';
import type { Line } from '#core/dashboard/pane/kinds/crosstab/shape.ts';
import type { Cell } from '#core/value/field/value.ts';
import type { ReadBy } from '#core/value/format/format.ts';

interface Props {
  readonly body: CrosstabBody;
  /** Those that are drawn. */
  readonly columns: readonly Placed[];
  /** There is room for those that are not, behind the heads of the rows, which are this wide; null: all are drawn. */
  readonly rowHead: number | null;
  readonly clock: ReadBy;
  readonly turned: ReadonlySet<string>;
  readonly onTurn: (line: Line) => void;
  /** Puts the rows in order by a measure of a column, or by their heads. */
  readonly onSort: (measure: number | null, along: readonly Cell[]) => void;
}

/** Pixels between the heads of the rows and that of a group. */
const headRoom = 8;

/** Where columns stand that are out of sight. */
const gap = 'ground border-b border-line';

/** The heads over the columns, in view however far the rows are scrolled: a row for each level, then one of measures. */
export function ColumnHeads({ body, columns, rowHead, clock, turned, onTurn, onSort }: Props) {
  const { across, down, measures, order } = body;
  const hasMeasures = measures.length > 1 || across.length === 0;
  const rows = headsOf(columns, across.length);
  const height = rows.length + (hasMeasures ? 1 : 0);
  const sortOf = (measure: number | null, along: readonly Cell[]) =>
    isOrderedBy(order, measure, along)
      ? order.descending
        ? ('descending' as const)
        : ('ascending' as const)
      : undefined;
  const corner = (
    <th
      scope="col"
      rowSpan={height}
      aria-sort={sortOf(null, [])}
      className="sticky left-0 z-30 ground border-r border-b border-line px-1 text-left align-bottom"
    >
      <SortButton words={cornerWords(down)} sorted={sortOf(null, [])} onSort={() => onSort(null, [])} />
    </th>
  );
  return (
    <thead className="sticky top-0 z-20 text-small text-slate">
      {rows.map((heads, level) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: a level has no other identity
        <tr key={level}>
          {level === 0 && corner}
          {level === 0 && rowHead !== null && <td aria-hidden="true" rowSpan={height} className={gap} />}
          {heads.map((head) => {
            const line: Line = columns[head.from]?.line ?? { values: [], children: 0 };
            const isLast = level + head.rows === rows.length;
            const isGroup = head.depth !== null && head.depth < across.length;
            const group = { ...line, values: line.values.slice(0, head.depth ?? 0), children: 1 };
            const words =
              head.depth === null
                ? totalWords(line, across, clock)
                : valueWords(line.values[head.depth - 1], across[head.depth - 1], clock);
            // Where each column has one number, its own head puts the rows in order.
            const sorts = isLast && !hasMeasures;
            const sorted = sorts ? sortOf(0, line.values) : undefined;
            return (
              <th
                key={`${head.from} ${head.depth}`}
                scope={head.columns > 1 ? 'colgroup' : 'col'}
                colSpan={head.columns * measures.length}
                rowSpan={head.rows}
                aria-sort={sorted}
                className={`ground border-b border-line px-2 align-bottom whitespace-nowrap ${rowHead !== null && !isGroup ? 'overflow-hidden' : ''} ${isGroup ? 'border-l border-l-hair text-left' : 'text-right'} ${head.depth === null ? 'text-muted' : ''}`}
              >
                <span
                  className={`flex items-center ${isGroup ? '' : 'justify-end'} ${isGroup && rowHead !== null ? 'sticky w-max' : ''}`}
                  // The head of a group is in sight for as long as one of its columns is.
                  style={isGroup && rowHead !== null ? { left: rowHead + headRoom } : undefined}
                >
                  {isGroup && (
                    <button
                      type="button"
                      aria-expanded={isOpen('across', group, turned)}
                      aria-label={`${isOpen('across', group, turned) ? 'Close' : 'Open'} ${words}`}
                      onClick={() => onTurn(group)}
                      className="-ml-1 inline-flex size-6 shrink-0 items-center justify-center text-muted hover:text-accent"
                    >
                      {isOpen('across', group, turned) ? (
                        <ChevronDown className="size-4" />
                      ) : (
                        <ChevronRight className="size-4" />
                      )}
                    </button>
                  )}
                  {sorts ? (
                    <SortButton words={words} sorted={sorted} onSort={() => onSort(0, line.values)} />
                  ) : (
                    words
                  )}
                </span>
                {line.partial && head.depth === line.values.length && (
                  <span className="block pb-0.5 font-normal text-muted">{line.partial}</span>
                )}
              </th>
            );
          })}
          {level === 0 && rowHead !== null && <td aria-hidden="true" rowSpan={height} className={gap} />}
        </tr>
      ))}
      {hasMeasures && (
        <tr>
          {rows.length === 0 && corner}
          {rows.length === 0 && rowHead !== null && <td aria-hidden="true" className={gap} />}
          {columns.flatMap(({ line }) =>
            measures.map((measure, which) => (
              <th
                key={`${JSON.stringify(line.values)} ${measure.label}`}
                scope="col"
                aria-sort={sortOf(which, line.values)}
                className="ground border-b border-line px-2 text-right whitespace-nowrap"
              >
                <SortButton
                  words={measure.label}
                  of={pathWords(line, across, clock)}
                  unit={measure.unit}
                  sorted={sortOf(which, line.values)}
                  onSort={() => onSort(which, line.values)}
                />
              </th>
            )),
          )}
          {rows.length === 0 && rowHead !== null && <td aria-hidden="true" className={gap} />}
        </tr>
      )}
    </thead>
  );
}

function SortButton({
  words,
  of,
  unit,
  sorted,
  onSort,
}: {
  words: string;
  of?: string;
  unit?: string | undefined;
  sorted: 'ascending' | 'descending' | undefined;
  onSort: () => void;
}) {
  const Arrow = sorted === 'descending' ? ArrowDown : ArrowUp;
  return (
    <button
      type="button"
      onClick={onSort}
      className="inline-flex min-h-6 items-center gap-1 hover:text-accent"
    >
      {words}
      {of && <span className="sr-only"> of {of}</span>}
      {unit && <span className="font-normal text-muted">{unit}</span>}
      {sorted && <Arrow className="size-3 text-accent" aria-hidden="true" />}
    </button>
  );
}
