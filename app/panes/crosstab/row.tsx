import ChevronDown from 'lucide-react/icons/chevron-down';
import ChevronRight from 'lucide-react/icons/chevron-right';
import { type CSSProperties, memo } from 'react';
import type { CrosstabBody } from '#core/dashboard/pane/kinds/crosstab/kind.ts';
import type { Placed } from '#core/dashboard/pane/kinds/crosstab/lines.ts';
import type { Line } from '#core/dashboard/pane/kinds/crosstab/shape.ts';
import type { ShownMeasure } from '#core/dashboard/pane/shown.ts';
import type { Cell } from '#core/value/field/value.ts';
import { formatCell, type ReadBy } from '#core/value/format/format.ts';
import { bandLook } from '../../ui/band.ts';

/** Pixels of a row, as close as rows stand. */
export const rowHeights = { roomy: 30, close: 25 } as const;

/** What is done in a row; the same for all of them, so that one that is in view already is not drawn again while others come. */
export interface RowActions {
  readonly turn: (line: Line) => void;
  readonly pick: (line: Line) => void;
  readonly open: (row: number, cell: number) => void;
  readonly focus: (row: number, cell: number) => void;
}

interface Props {
  readonly index: number;
  readonly placed: Placed;
  readonly words: string;
  readonly isOpen: boolean;
  readonly isPicked: boolean;
  /** The first in view: the keyboard comes in through it. */
  readonly isEntry: boolean;
  /** The columns that are drawn, and which of all the first of them is. */
  readonly columns: readonly Placed[];
  readonly from: number;
  /** There is room for those that are not. */
  readonly isFixed: boolean;
  readonly body: CrosstabBody;
  /** How the numbers of each measure are written. */
  readonly formats: readonly ShownMeasure[];
  readonly shades: ((value: Cell | undefined, which: number) => CSSProperties | undefined) | null;
  readonly clock: ReadBy;
  readonly actions: RowActions;
  /** Pixels. */
  readonly height: number;
}

/** A row of numbers behind its head. */
export const CrosstabRow = memo(function CrosstabRow({
  index,
  placed: { line, at },
  words,
  isOpen,
  isPicked,
  isEntry,
  columns,
  from,
  isFixed,
  body: { data, measures, across },
  formats,
  shades,
  clock,
  actions,
  height,
}: Props) {
  const isTotal = line.values.length === 0;
  return (
    <tr
      data-row={index}
      aria-rowindex={index + 1}
      style={{ height }}
      className={isTotal || line.children > 0 ? 'font-strong' : ''}
    >
      <RowHead line={line} words={words} isOpen={isOpen} isPicked={isPicked} actions={actions} />
      {isFixed && <td aria-hidden="true" />}
      {columns.flatMap((column, nth) =>
        measures.map((measure, which) => {
          const cell = (from + nth) * measures.length + which;
          const value = data.cells[at]?.[column.at * measures.length + which];
          const band = bandLook(value, measure.bands);
          const isSum = isTotal || column.line.values.length < across.length;
          return (
            // biome-ignore lint/a11y/useKeyWithClickEvents: keys are taken by the grid
            <td
              key={cell}
              title={band.title}
              style={isSum ? undefined : shades?.(value, which)}
              data-cell={cell}
              aria-colindex={cell + 2}
              tabIndex={isEntry && nth + which === 0 ? 0 : -1}
              onFocus={() => actions.focus(index, cell)}
              onClick={() => actions.open(index, cell)}
              className={`figures cursor-pointer border-b border-hair px-2 text-right whitespace-nowrap outline-offset-[-2px] hover:text-accent hover:underline ${isPicked ? 'bg-wash' : isSum ? 'bg-well' : ''} ${value === null ? 'text-muted' : ''} ${band.className}`}
            >
              {formatCell(value, formats[which] ?? measure, clock)}
              {band.title && <span className="sr-only">, {band.title}</span>}
            </td>
          );
        }),
      )}
      {isFixed && <td aria-hidden="true" />}
    </tr>
  );
});

/** A row's head, in view however far its numbers are scrolled. */
function RowHead({
  line,
  words,
  isOpen,
  isPicked,
  actions,
}: Pick<Props, 'words' | 'isOpen' | 'isPicked' | 'actions'> & { line: Line }) {
  const depth = Math.max(0, line.values.length - 1);
  return (
    <th
      scope="row"
      className={`sticky left-0 z-10 max-w-[46vw] border-r sm:max-w-72 border-b border-r-line border-b-hair pr-3 text-left [font-weight:inherit] ${isPicked ? 'bg-wash shadow-[inset_3px_0_0_var(--accent)]' : 'ground'}`}
    >
      <span className="flex items-center" style={{ paddingLeft: `${0.25 + depth * 1.25}rem` }}>
        {line.children > 0 && line.values.length > 0 ? (
          <button
            type="button"
            aria-expanded={isOpen}
            aria-label={`${isOpen ? 'Close' : 'Open'} ${words}`}
            onClick={() => actions.turn(line)}
            className="-ml-1 inline-flex size-6 shrink-0 items-center justify-center text-muted hover:text-accent"
          >
            {isOpen ? <ChevronDown className="size-4" /> : <ChevronRight className="size-4" />}
          </button>
        ) : null}
        <button
          type="button"
          className="min-h-6 min-w-0 truncate text-left hover:text-accent hover:underline"
          onClick={() => actions.pick(line)}
        >
          {words}
        </button>
        {line.partial && <span className="pl-1.5 text-small font-normal text-muted">{line.partial}</span>}
      </span>
    </th>
  );
}
