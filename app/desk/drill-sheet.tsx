import { type ColumnDef, getCoreRowModel, useReactTable } from '@tanstack/react-table';
import { Maximize2, Minimize2, X } from 'lucide-react';
import { Dialog } from 'radix-ui';
import { useMemo, useRef, useState } from 'react';
import { useLocation } from 'react-router';
import type { FollowUpAnswer } from '#core/change/follow-up.ts';
import { setEdition } from '#core/dashboard/edition.ts';
import { type ListOrder, orderTexts, sortedBy } from '#core/dashboard/pane/list-view.ts';
import type { RecordList } from '#core/dashboard/pane/shown.ts';
import type { Cell } from '#core/value/field/value.ts';
import { formatCell, formatMoment, formatNumber } from '#core/value/format/format.ts';
import type { Behind, OpenedRecord, PastChange } from '#server/panes/drill.ts';
import { RecordActs } from '../panes/act-bar.tsx';
import { DetailList } from '../panes/detail/detail.tsx';
import { DownloadTool } from '../panes/download.tsx';
import { Pager } from '../panes/pager.tsx';
import { Search } from '../panes/search.tsx';
import { type ColumnMeta, Grid } from '../panes/table/grid.tsx';
import { ColumnsTool } from '../panes/table/tools.tsx';
import { IconButton } from '../ui/button.tsx';
import { isFocusFree } from '../ui/focus.ts';
import { ProblemMessage } from '../ui/message.tsx';
import { useDesk } from './desk-context.ts';
import { type Drill, drillToText } from './drill-address.ts';
import { FollowUpPanel } from './follow-up/panel.tsx';
import { useViewAnswer } from './use-view-answer.ts';

/** What is drilled into, from the right, with the page still in view and the trail back as a sentence. */
export function DrillSheet({
  drills,
  go,
  page,
}: {
  drills: readonly Drill[];
  go: (steps: readonly Drill[]) => void;
  page: string;
}) {
  // Where the work goes on once this is closed: the number or record that it was opened from.
  const openedFrom = useRef(document.activeElement);
  const [isWhole, setIsWhole] = useState(false);
  const top = drills.at(-1);
  if (!top) return null;
  return (
    <Dialog.Root open modal={false} onOpenChange={(open) => !open && go([])}>
      <Dialog.Portal>
        <Dialog.Content
          data-drill
          className={`appear fixed inset-y-0 right-0 z-40 flex ${isWhole ? 'w-screen' : 'w-[min(46rem,100vw)]'} flex-col [--ground:var(--sheet)] border-l border-line bg-sheet text-ink shadow-[-12px_0_32px_rgb(0_0_0/0.14)]`}
          onInteractOutside={(event) => event.preventDefault()}
          onCloseAutoFocus={(event) => {
            event.preventDefault();
            if (isFocusFree() && openedFrom.current instanceof HTMLElement) openedFrom.current.focus();
          }}
          onEscapeKeyDown={(event) => {
            event.preventDefault();
            go(drills.slice(0, -1));
          }}
          aria-describedby={undefined}
        >
          <header className="glass flex min-h-12 items-center gap-3 px-5 py-2 [&_:focus-visible]:outline-on-glass">
            <nav
              aria-label="Trail"
              className="flex min-w-0 flex-1 flex-wrap items-center gap-x-1.5 text-small"
            >
              <button type="button" className="text-on-glass-muted hover:underline" onClick={() => go([])}>
                {page}
              </button>
              {drills.map((drill, index) => (
                <span key={drillToText(drill)} className="flex min-w-0 items-center gap-x-1.5">
                  <span aria-hidden="true">›</span>
                  {index === drills.length - 1 ? (
                    <span className="truncate font-strong" aria-current="page">
                      {drill.title}
                    </span>
                  ) : (
                    <button
                      type="button"
                      className="truncate text-on-glass-muted hover:underline"
                      onClick={() => go(drills.slice(0, index + 1))}
                    >
                      {drill.title}
                    </button>
                  )}
                </span>
              ))}
            </nav>
            <IconButton
              name={isWhole ? 'Beside the page again' : 'Over the whole page'}
              onClick={() => setIsWhole(!isWhole)}
              className="text-on-glass hover:text-on-glass max-sm:hidden"
            >
              {isWhole ? <Minimize2 className="size-4" /> : <Maximize2 className="size-4" />}
            </IconButton>
            <Dialog.Close asChild>
              <IconButton name="Close" className="text-on-glass hover:text-on-glass">
                <X className="size-5" />
              </IconButton>
            </Dialog.Close>
          </header>
          <Dialog.Title className="sr-only">{top.title}</Dialog.Title>
          <div className="min-h-0 flex-1 overflow-auto p-5">
            {top.kind === 'behind' ? (
              <BehindView key={JSON.stringify(top)} drill={top} />
            ) : (
              <RecordView key={`${top.pane} ${top.key}`} drill={top} />
            )}
          </div>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}

function BehindView({ drill }: { drill: Extract<Drill, { kind: 'behind' }> }) {
  const { view, clock } = useDesk();
  const { search: address } = useLocation();
  const [page, setPage] = useState(1);
  const [find, setFind] = useState('');
  const [order, setOrder] = useState<ListOrder>([]);
  const [columns, setColumns] = useState<readonly string[] | null>(null);
  const wanted: [string, string][] = [
    ['_cell', JSON.stringify(drill.cell)],
    ...(find ? [['_find', find] as [string, string]] : []),
    ...orderTexts(order).map((text): [string, string] => ['_order', text]),
  ];
  const answer = useViewAnswer<{ behind: Behind }>('behind', 'opening what is behind the number', [
    ...wanted,
    ['_page', String(page)],
  ]);
  if (!answer) return <p className="text-muted">Finding the records …</p>;
  if (!answer.ok) return <ProblemMessage problem={answer.problem} />;
  const { behind } = answer;
  const { table } = behind;
  const shown = columns ?? table.fields.map(({ name }) => name);
  const fileOf = (format: string): string => {
    const params = new URLSearchParams(address);
    params.delete('_drill');
    for (const [name, value] of wanted) params.append(name, value);
    for (const name of shown) params.append('_show', name);
    params.set('_as', format);
    setEdition(params, view.edition);
    return `/view/${view.id}/export?${params}`;
  };
  return (
    <div className="flex h-full flex-col gap-3">
      <p className="text-lead">
        <span className="figures font-strong">{formatCell(behind.value, behind.measure, clock)}</span>{' '}
        {behind.measure.unit} {behind.measure.label}
        {behind.of && `, ${behind.of}`}
        {behind.outOf === null &&
          formatNumber(table.total ?? '0') !== formatCell(behind.value, behind.measure, clock) && (
            <span className="figures text-muted">
              {' '}
              — from {formatNumber(table.total ?? '0')}{' '}
              {table.total === '1' ? table.noun.one : table.noun.many}
            </span>
          )}
        {behind.outOf !== null && (
          <span className="figures text-muted">
            {' '}
            — {formatNumber(behind.part ?? '0')} of {formatNumber(behind.outOf)}{' '}
            {behind.outOf === '1' ? table.noun.one : table.noun.many}
          </span>
        )}
      </p>
      <div className="flex flex-wrap items-center gap-2">
        <Search
          label={`Search ${table.noun.many}`}
          value={find}
          onSearch={(text) => {
            setFind(text);
            setPage(1);
          }}
        />
        <span className="flex-1" />
        <DownloadTool
          name="Download these records"
          what={`All ${table.noun.many} behind this number`}
          hrefOf={fileOf}
        />
        <ColumnsTool
          offered={table.fields}
          shown={shown}
          onChange={setColumns}
          onReset={columns ? () => setColumns(null) : null}
        />
      </div>
      {table.total === '0' ? (
        <p className="py-4 text-muted">
          {find
            ? `No ${table.noun.many} contain “${find}”.`
            : `There are no ${table.noun.many} behind this number.`}
        </p>
      ) : (
        <Records
          table={table}
          pane={drill.cell.pane}
          keyField={behind.key}
          titleField={behind.title}
          label={drill.title}
          shown={shown}
          order={order}
          onSort={(by, add) => {
            setOrder(sortedBy(order, by, add));
            setPage(1);
          }}
        />
      )}
      <Pager
        page={table.page}
        size={25}
        total={table.total}
        shown={table.records.length}
        noun={table.noun}
        onPage={setPage}
      />
    </div>
  );
}

/** A list of records whose rows open. */
function Records({
  table: body,
  pane,
  keyField,
  titleField,
  label,
  shown,
  order = [],
  onSort,
}: {
  table: RecordList;
  /** The pane whose records these are. */
  pane: string;
  keyField: string | null;
  titleField: string | null;
  label: string;
  /** The columns, in their order; every one where absent. */
  shown?: readonly string[];
  order?: ListOrder;
  onSort?: (by: string, add: boolean) => void;
}) {
  const { clock, open } = useDesk();
  const columns = useMemo(
    () =>
      (shown ?? body.fields.map(({ name }) => name)).flatMap((name): ColumnDef<readonly Cell[]>[] => {
        const index = body.fields.findIndex((each) => each.name === name);
        const field = body.fields[index];
        if (!field || field.format?.kind === 'picture') return [];
        return [
          {
            id: field.name,
            accessorFn: (row) => row[index],
            size: field.type === 'text' && field.format?.kind !== 'id' && !field.states ? 180 : 124,
            meta: { field, column: { field: field.name } } satisfies ColumnMeta,
          },
        ];
      }),
    [body.fields, shown],
  );
  const table = useReactTable({
    data: body.records as (readonly Cell[])[],
    columns,
    getCoreRowModel: getCoreRowModel(),
    columnResizeMode: 'onChange',
    manualSorting: true,
  });
  const cellOf = (row: readonly Cell[], name: string | null): Cell =>
    row[body.fields.findIndex((each) => each.name === name)] ?? null;
  const openRow = (row: readonly Cell[]): void => {
    const key = cellOf(row, keyField);
    if (key === null) return;
    const title = cellOf(row, titleField) ?? key;
    open({ kind: 'record', pane, key: String(key), title: `${body.noun.one} ${String(title)}` });
  };
  return (
    <Grid
      table={table}
      label={label}
      clock={clock}
      order={order}
      {...(onSort ? { onSort } : {})}
      isPicked={() => false}
      onPick={openRow}
      onOpen={openRow}
    />
  );
}

/** What people noted of a record, and must do about it. */
function FollowUp({ drill: { pane, key } }: { drill: Extract<Drill, { kind: 'record' }> }) {
  const { clock, view } = useDesk();
  const [turn, setTurn] = useState(0);
  const answer = useViewAnswer<{ followUp: FollowUpAnswer }>('follow-up', 'reading what was said of it', [
    ['_pane', pane],
    ['_key', key],
    ['_turn', String(turn)],
  ]);
  if (!answer) return null;
  if (!answer.ok) return <ProblemMessage problem={answer.problem} />;
  const edition = new URLSearchParams();
  setEdition(edition, view.edition);
  return (
    <FollowUpPanel
      answer={answer.followUp}
      address={`/view/${view.id}/follow-up?${edition}`}
      about={{ pane, key }}
      by={clock}
      onSaid={() => setTurn(turn + 1)}
    />
  );
}

/** What was done to a record from here, latest first. */
function History({ past }: { past: readonly PastChange[] }) {
  const { clock } = useDesk();
  return (
    <section aria-label="What was done to it">
      <h3 className="mb-1 text-body">What was done to it</h3>
      <ol className="flex flex-col">
        {past.map(({ at, by, words, fields }) => (
          <li key={`${at} ${words}`} className="border-b border-hair py-1.5">
            <p className="text-small text-muted">
              {formatMoment(at, clock)} · {by} · {words}
            </p>
            {fields.map(({ label, before, after }) => (
              <p key={label} className="figures">
                {label}: {before !== '' && <s className="text-muted">{before}</s>} <span>{after}</span>
              </p>
            ))}
          </li>
        ))}
      </ol>
    </section>
  );
}

function RecordView({ drill }: { drill: Extract<Drill, { kind: 'record' }> }) {
  const { clock, view, act, change } = useDesk();
  const answer = useViewAnswer<{ record: OpenedRecord }>('record', 'opening the record', [
    ['_pane', drill.pane],
    ['_key', drill.key],
  ]);
  if (!answer) return <p className="text-muted">Finding the record …</p>;
  if (!answer.ok) return <ProblemMessage problem={answer.problem} />;
  const { detail, related, offers, history, isFollowedUp } = answer.record;
  const refusal = (offers && view.offers[offers.pane]?.refusal) ?? null;
  const mayAct = offers !== null && refusal === null;
  return (
    <div className="flex flex-col gap-6">
      <h2 className="text-title">
        {detail.noun.one.charAt(0).toUpperCase() + detail.noun.one.slice(1)} {detail.title ?? drill.key}
      </h2>
      {offers && (
        <RecordActs
          offers={{ ...offers, refusal }}
          onAct={(action) => act({ pane: offers.pane, action, keys: [drill.key] })}
        />
      )}
      <DetailList
        body={detail}
        clock={clock}
        {...(mayAct
          ? {
              offers,
              onChange: (field, saw, value) =>
                change({ pane: offers.pane, key: drill.key, field, saw, value }),
            }
          : {})}
      />
      {isFollowedUp && <FollowUp drill={drill} />}
      {history.length > 0 && <History past={history} />}
      {related.map((each) => (
        <section key={each.pane}>
          <h3 className="mb-1 text-body">
            {formatNumber(each.table.total ?? '0')}{' '}
            {each.table.total === '1' ? each.table.noun.one : each.noun}
          </h3>
          {each.table.records.length > 0 && (
            <Records
              table={each.table}
              pane={each.pane}
              keyField={each.key}
              titleField={each.title}
              label={each.noun}
            />
          )}
        </section>
      ))}
    </div>
  );
}
