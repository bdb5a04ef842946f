import { type ColumnDef, getCoreRowModel, useReactTable } from '@tanstack/react-table';
import { X } from 'lucide-react';
import { Dialog } from 'radix-ui';
import { useEffect, useMemo, useState } from 'react';
import { useFetcher, useLocation } from 'react-router';
import type { Cell } from '#core/field/value.ts';
import { formatCell, formatNumber } from '#core/format/format.ts';
import type { TableBody } from '#core/pane/result.ts';
import type { Problem } from '#core/problem/problem.ts';
import type { Behind, OpenedRecord } from '#server/panes/drill.ts';
import { DetailList } from '../panes/detail/detail.tsx';
import { Grid } from '../panes/table/grid.tsx';
import { Pager } from '../panes/table/pager.tsx';
import { IconButton } from '../ui/button.tsx';
import { ProblemMessage } from '../ui/message.tsx';
import { useDesk } from './desk-context.ts';
import { type Drill, drillToText } from './drill-address.ts';

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
  const top = drills.at(-1);
  if (!top) return null;
  return (
    <Dialog.Root open modal={false} onOpenChange={(open) => !open && go([])}>
      <Dialog.Portal>
        <Dialog.Content
          className="appear fixed inset-y-0 right-0 z-40 flex w-[min(46rem,100vw)] flex-col [--ground:var(--sheet)] border-l border-line bg-sheet text-ink shadow-[-12px_0_32px_rgb(0_0_0/0.14)]"
          onInteractOutside={(event) => event.preventDefault()}
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
              <RecordView key={`${top.of} ${top.key}`} drill={top} />
            )}
          </div>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}

type Answer<T> = ({ ok: true } & T) | { ok: false; problem: Problem };

function useAsked<T>(path: string, extra: Record<string, string>): Answer<T> | undefined {
  const { view } = useDesk();
  const { search } = useLocation();
  const fetcher = useFetcher<Answer<T>>();
  const { load } = fetcher;
  const asked = JSON.stringify(extra);
  useEffect(() => {
    const params = new URLSearchParams(search);
    params.delete('_drill');
    if (view.draft) params.set('_draft', '1');
    for (const [name, value] of Object.entries(JSON.parse(asked) as Record<string, string>))
      params.set(name, value);
    void load(`/view/${view.id}/${path}?${params}`);
  }, [asked, load, path, search, view.id, view.draft]);
  return fetcher.data;
}

function BehindView({ drill }: { drill: Extract<Drill, { kind: 'behind' }> }) {
  const { zone } = useDesk();
  const [page, setPage] = useState(1);
  const answer = useAsked<{ behind: Behind }>('behind', {
    _cell: JSON.stringify(drill.cell),
    _page: String(page),
  });
  if (!answer) return <p className="text-muted">Finding the records …</p>;
  if (!answer.ok) return <ProblemMessage problem={answer.problem} />;
  const { behind } = answer;
  const { table } = behind;
  return (
    <div className="flex h-full flex-col gap-3">
      <p className="text-lead">
        <span className="figures font-strong">{formatCell(behind.value, behind.measure, zone)}</span>{' '}
        {behind.measure.unit} {behind.measure.label}
        {behind.of && `, ${behind.of}`}
        <span className="text-muted">
          {' '}
          — from {formatNumber(table.total ?? '0')} {table.total === '1' ? table.noun.one : table.noun.many}
        </span>
      </p>
      <Records table={table} dataSet={behind.dataSet} keyField={behind.key} label={drill.title} />
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

/** A plain list of records whose rows open. */
function Records({
  table: body,
  dataSet,
  keyField,
  label,
}: {
  table: TableBody;
  dataSet: string;
  keyField: string | null;
  label: string;
}) {
  const { zone, open } = useDesk();
  const columns = useMemo(
    () =>
      body.fields
        .map(
          (field, index): ColumnDef<readonly Cell[]> => ({
            id: field.name,
            accessorFn: (row) => row[index],
            size: field.type === 'text' && field.format?.kind !== 'id' && !field.states ? 180 : 124,
            meta: field,
          }),
        )
        .filter(({ meta }) => (meta as { format?: { kind: string } }).format?.kind !== 'picture'),
    [body.fields],
  );
  const table = useReactTable({
    data: body.records as (readonly Cell[])[],
    columns,
    getCoreRowModel: getCoreRowModel(),
    columnResizeMode: 'onChange',
  });
  const keyAt = body.fields.findIndex(({ name }) => name === keyField);
  const openRow = (row: readonly Cell[]): void => {
    const key = row[keyAt];
    if (keyAt >= 0 && key !== null && key !== undefined)
      open({ kind: 'record', of: dataSet, key: String(key), title: `${body.noun.one} ${String(key)}` });
  };
  return (
    <Grid
      table={table}
      label={label}
      zone={zone}
      order={[]}
      isPicked={() => false}
      onPick={openRow}
      onOpen={openRow}
    />
  );
}

function RecordView({ drill }: { drill: Extract<Drill, { kind: 'record' }> }) {
  const { zone } = useDesk();
  const answer = useAsked<{ record: OpenedRecord }>('record', { _of: drill.of, _key: drill.key });
  if (!answer) return <p className="text-muted">Finding the record …</p>;
  if (!answer.ok) return <ProblemMessage problem={answer.problem} />;
  const { detail, related } = answer.record;
  return (
    <div className="flex flex-col gap-6">
      <h2 className="text-title">
        {detail.noun.one.charAt(0).toUpperCase() + detail.noun.one.slice(1)} {detail.title ?? drill.key}
      </h2>
      <DetailList body={detail} zone={zone} />
      {related.map((each) => (
        <section key={each.dataSet}>
          <h3 className="mb-1 text-body">
            {formatNumber(each.table.total ?? '0')}{' '}
            {each.table.total === '1' ? each.table.noun.one : each.noun}
          </h3>
          {each.table.records.length > 0 && (
            <Records table={each.table} dataSet={each.dataSet} keyField={each.key} label={each.noun} />
          )}
        </section>
      ))}
    </div>
  );
}
