import { useRef, useState } from 'react';
import { useLocation } from 'react-router';
import { setEdition } from '#core/dashboard/edition.ts';
import { type ListOrder, orderTexts, sortedBy } from '#core/dashboard/pane/list-view.ts';
import { scopeParams } from '#core/dashboard/scope/address.ts';
import { formatCell, formatNumber } from '#core/value/format/format.ts';
import type { Behind } from '#server/panes/drill.ts';
import { ActBar } from '../../panes/act-bar.tsx';
import { DownloadTool } from '../../panes/download.tsx';
import { useMarks } from '../../panes/marks.ts';
import { Pager } from '../../panes/pager.tsx';
import { Search } from '../../panes/search.tsx';
import { goToActions } from '../../panes/table/marking.ts';
import { ColumnsTool } from '../../panes/table/tools.tsx';
import { ProblemMessage } from '../../ui/message.tsx';
import { useDesk } from '../desk-context.ts';
import type { Drill } from '../drill-address.ts';
import { useViewAnswer } from '../use-view-answer.ts';
import { Records } from './records.tsx';

/** The records behind a number, with what can be done to them. */
export function BehindView({ drill }: { drill: Extract<Drill, { kind: 'behind' }> }) {
  const { view, clock, act } = useDesk();
  const { search: address } = useLocation();
  const [page, setPage] = useState(1);
  const [find, setFind] = useState('');
  const [order, setOrder] = useState<ListOrder>([]);
  const [columns, setColumns] = useState<readonly string[] | null>(null);
  const marks = useMarks();
  const bar = useRef<HTMLDivElement>(null);
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
  const { table, offers } = behind;
  const refusal = (offers && view.offers[offers.pane]?.refusal) ?? null;
  const canMark = offers !== null && refusal === null && offers.actions.length > 0;
  const shown = columns ?? table.fields.map(({ name }) => name);
  const fileOf = (format: string): string => {
    const params = scopeParams(address);
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
          marks={canMark ? marks : null}
          onAct={() => goToActions(bar.current)}
          onSort={(by, add) => {
            setOrder(sortedBy(order, by, add));
            setPage(1);
          }}
        />
      )}
      {offers && (
        <div ref={bar}>
          <ActBar
            offers={{ ...offers, refusal }}
            marked={marks.marked}
            total={table.total}
            noun={table.noun}
            onAct={(action) =>
              act({
                pane: offers.pane,
                action,
                keys: marks.marked === 'all' ? [] : [...marks.marked],
                onDone: marks.unmark,
              })
            }
            onMarkAll={null}
            onUnmark={marks.unmark}
          />
        </div>
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
