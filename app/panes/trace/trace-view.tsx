import ChevronDown from 'lucide-react/icons/chevron-down';
import ChevronRight from 'lucide-react/icons/chevron-right';
import ExternalLink from 'lucide-react/icons/external-link';
import { Fragment, useId, useMemo, useState } from 'react';
import type { TraceBody, TraceLane } from '#core/dashboard/pane/kinds/trace/kind.ts';
import type { Lane, TracePane } from '#core/dashboard/pane/kinds/trace/schema.ts';
import type { MissingEvent, TraceEvent, TraceLine } from '#core/dashboard/pane/kinds/trace/shape.ts';
import { laneFields } from '#core/dashboard/pane/kinds/trace/use.ts';
import type { ShownField } from '#core/dashboard/pane/shown.ts';
import type { Cell } from '#core/value/field/value.ts';
import { formatCell, formatMoment, type ReadBy } from '#core/value/format/format.ts';
import { durationWords } from '#core/words/duration.ts';
import { Button } from '../../ui/button.tsx';
import { CellView } from '../../ui/cell.tsx';
import { Scroll } from '../../ui/scroll.tsx';
import { StateMark } from '../../ui/state-mark.tsx';
import { Search } from '../search.tsx';
import type { PaneViewProps } from '../view.ts';

/** The events of one case in order: a line for each, in the lane of its system, with the time between where that is long. */
export function TraceView({
  pane,
  body,
  clock,
  view,
  actions,
  inRecord,
}: PaneViewProps<TracePane, TraceBody>) {
  const { noun } = pane.about;
  const { lanes, lines, cut } = body;
  return (
    <div className="flex min-h-0 flex-1 flex-col gap-2">
      <div className="no-print flex flex-wrap items-center gap-3">
        {!inRecord && (
          <Search
            label={`Find a ${noun}`}
            value={view.case?.[0] ?? ''}
            onSearch={(text) => actions.look({ case: text.trim() === '' ? [] : [text] })}
          />
        )}
        {body.case !== null && (
          <p className="text-small text-muted" role="status">
            {noun} <span className="font-mono text-ink">{body.case}</span>, {lines.filter(isEvent).length}{' '}
            {lines.filter(isEvent).length === 1 ? 'event' : 'events'}
          </p>
        )}
      </div>
      {body.case === null ? (
        <p className="py-2 text-muted">Type a {noun}, or pick one on this page.</p>
      ) : lines.length === 0 ? (
        <div className="flex flex-col gap-2 py-2">
          <p className="text-muted">
            Nothing is known of {noun} {body.case}.
          </p>
          {body.near.length > 0 && !inRecord && (
            <div className="flex flex-wrap items-center gap-2">
              Did you mean
              {body.near.map((name) => (
                <Button key={name} className="font-mono" onClick={() => actions.look({ case: [name] })}>
                  {name}
                </Button>
              ))}
            </div>
          )}
        </div>
      ) : (
        <Scroll label={`${pane.title}, events`} className="min-h-0 flex-initial">
          <table className="w-full border-collapse text-left" aria-label={pane.title}>
            <thead className="sticky top-0 z-10 ground text-small text-slate">
              <tr>
                <th scope="col" className="w-28 border-b border-line py-1 pr-3">
                  Time
                </th>
                {lanes.map(({ name }) => (
                  <th key={name} scope="col" className="border-b border-line py-1 pr-3 pl-2.5 max-sm:hidden">
                    {name}
                  </th>
                ))}
                <th scope="col" className="border-b border-line py-1 sm:hidden">
                  Event
                </th>
              </tr>
            </thead>
            <tbody>
              {lines.map((line, index) => (
                <Fragment key={keyOf(line, index)}>
                  {line.at !== null &&
                    dayOf(line.at, clock) !== dayOf(lines[index - 1]?.at ?? null, clock) && (
                      <tr>
                        <th
                          scope="rowgroup"
                          colSpan={lanes.length + 1}
                          className="pt-2 pb-0.5 text-small text-slate"
                        >
                          {dayOf(line.at, clock)}
                        </th>
                      </tr>
                    )}
                  {isEvent(line) ? (
                    <EventLine event={line} lane={pane.lanes[line.lane]} lanes={lanes} clock={clock} />
                  ) : (
                    <MissingLine missing={line} lanes={lanes} clock={clock} />
                  )}
                </Fragment>
              ))}
            </tbody>
          </table>
        </Scroll>
      )}
      {cut.length > 0 && (
        <p className="text-small text-slipping">Only the first events of {cut.join(', ')} are shown.</p>
      )}
    </div>
  );
}

const isEvent = (line: TraceLine): line is TraceEvent => line.kind === 'event';
const keyOf = (line: TraceLine, index: number): string => `${line.kind} ${line.lane} ${line.at} ${index}`;
const dayOf = (at: string | null, clock: ReadBy): string =>
  at === null ? '' : formatCell(at, { type: 'instant', format: { kind: 'date', style: 'long' } }, clock);

/** The lanes that pass by, each with its own thin line, and what stands in one of them. */
function Lanes({ count, at, children }: { count: number; at: number; children: React.ReactNode }) {
  return (
    <>
      {Array.from({ length: count }, (_, lane) =>
        lane === at ? (
          // biome-ignore lint/suspicious/noArrayIndexKey: lanes are told by their place
          <td key={lane} className="min-w-0 border-l border-hair py-1 pr-3 pl-2.5 align-top">
            {children}
          </td>
        ) : (
          // biome-ignore lint/suspicious/noArrayIndexKey: lanes are told by their place
          <td key={lane} aria-hidden="true" className="border-l border-hair max-sm:hidden" />
        ),
      )}
    </>
  );
}

function EventLine({
  event,
  lane,
  lanes,
  clock,
}: {
  event: TraceEvent;
  lane: Lane | undefined;
  lanes: readonly TraceLane[];
  clock: ReadBy;
}) {
  const [open, setOpen] = useState(false);
  const details = useId();
  const parts = useMemo(() => (lane ? partsOf(event, lane, lanes[event.lane]) : null), [event, lane, lanes]);
  if (!parts) return null;
  const { outcome, words, more } = parts;
  const label = words ?? lanes[event.lane]?.name ?? '';
  return (
    <>
      {event.isLongGap && event.gap !== null && (
        <tr>
          <td className="py-0.5 pr-3 text-right text-small text-slipping">
            {durationWords(event.gap)} later
          </td>
          <td
            colSpan={lanes.length}
            aria-hidden="true"
            className="bg-[repeating-linear-gradient(90deg,var(--line)_0_1px,transparent_1px_7px)] bg-[length:100%_1px] bg-center bg-no-repeat"
          />
        </tr>
      )}
      <tr className="hover:bg-wash">
        <th scope="row" className="py-1 pr-3 text-right align-top font-mono text-small font-normal">
          {event.at === null ? 'no time' : formatMoment(event.at, clock, 'second')}
        </th>
        <Lanes count={lanes.length} at={event.lane}>
          <button
            type="button"
            aria-expanded={open}
            aria-controls={open ? details : undefined}
            onClick={() => setOpen(!open)}
            className="flex w-full min-w-0 items-start gap-1.5 text-left hover:text-accent"
          >
            {open ? (
              <ChevronDown className="mt-1 size-3.5 shrink-0 text-muted" aria-hidden="true" />
            ) : (
              <ChevronRight className="mt-1 size-3.5 shrink-0 text-muted" aria-hidden="true" />
            )}
            <span className="min-w-0">
              <span className="text-small text-muted sm:hidden">{lanes[event.lane]?.name}: </span>
              {outcome && (
                <span className="pr-2">
                  <CellView cell={outcome.cell} field={outcome.field} clock={clock} />
                </span>
              )}
              {label}
            </span>
          </button>
          {(event.clockBehind !== undefined || event.isMisplaced) && (
            <p className="pl-5 text-small text-slipping">
              {event.clockBehind !== undefined &&
                `its clock was ${durationWords(event.clockBehind)} ${event.clockBehind > 0 ? 'slow' : 'fast'}`}
              {event.isMisplaced && `, so by it this came earlier`}
            </p>
          )}
          {open && (
            <div id={details} className="pt-1 pb-2 pl-5">
              <dl className="grid grid-cols-[auto_1fr] gap-x-3 text-small">
                {more.map(({ field, cell }) => (
                  <div key={field.name} className="col-span-2 grid grid-cols-subgrid py-0.5">
                    <dt className="font-normal text-muted">{field.label}</dt>
                    <dd className="figures min-w-0">
                      <CellView cell={cell} field={field} clock={clock} />
                      {field.unit && cell !== null && <span className="text-muted"> {field.unit}</span>}
                    </dd>
                  </div>
                ))}
              </dl>
              {event.link && (
                <a
                  href={event.link}
                  rel="noreferrer noopener"
                  className="inline-flex items-center gap-1 pt-1 text-small text-accent underline"
                >
                  Show it at its source <ExternalLink className="size-3.5" aria-hidden="true" />
                </a>
              )}
            </div>
          )}
        </Lanes>
      </tr>
    </>
  );
}

function MissingLine({
  missing: { lane, after, minutes, at, isAwaited },
  lanes,
  clock,
}: {
  missing: MissingEvent;
  lanes: readonly TraceLane[];
  clock: ReadBy;
}) {
  const due = `${durationWords(minutes * 60)} of ${lanes[after]?.name ?? ''}`;
  return (
    <tr>
      <th scope="row" className="py-1 pr-3 text-right align-top font-mono text-small font-normal text-muted">
        {formatMoment(at, clock, 'second')}
      </th>
      <Lanes count={lanes.length} at={lane}>
        <StateMark
          tone={isAwaited ? 'waiting' : 'broken'}
          word={
            isAwaited ? `Awaited within ${due}` : `No ${lanes[lane]?.name.toLowerCase() ?? ''} within ${due}`
          }
        />
      </Lanes>
    </tr>
  );
}

interface Part {
  readonly field: ShownField;
  readonly cell: Cell;
}

/** What of an event is said at once, and what when it is opened. */
function partsOf(
  event: TraceEvent,
  lane: Lane,
  shown: TraceLane | undefined,
): { outcome: Part | null; words: string | null; more: readonly Part[] } | null {
  if (!shown) return null;
  const parts = laneFields(lane).flatMap((name, at): (Part & { name: string })[] => {
    const field = shown.fields[at];
    return field ? [{ name, field, cell: event.cells[at] ?? null }] : [];
  });
  const named = (name: string | undefined): Part | null => parts.find((part) => part.name === name) ?? null;
  const outcome = named(lane.outcome);
  const words = named(lane.words);
  return {
    outcome: outcome?.cell === null ? null : outcome,
    words: words?.cell === null || !words ? null : formatCell(words.cell, words.field, 'UTC'),
    more: parts.filter(({ name }) => name !== lane.outcome && name !== lane.words),
  };
}
