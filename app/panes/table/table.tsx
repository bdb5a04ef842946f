import { type ColumnDef, getCoreRowModel, useReactTable } from '@tanstack/react-table';
import { useMemo } from 'react';
import { useLocation } from 'react-router';
import type { Cell } from '#core/field/value.ts';
import type { TableBody } from '#core/pane/result.ts';
import type { TablePane } from '#core/pane/schema.ts';
import { sortedBy, withTable } from '#core/scope/change.ts';
import type { Focus, TableView as TableViewState } from '#core/scope/state.ts';
import { useDesk } from '../../desk/desk-context.ts';
import { Empty } from '../empty.tsx';
import { Grid } from './grid.tsx';
import { Pager } from './pager.tsx';
import { Search } from './search.tsx';
import { ColumnsTool, DownloadTool } from './tools.tsx';

type Row = readonly Cell[];

/** Records, sorted, searched and paged at the source. Picking one makes it what is looked at. */
export function TableView({ pane, body }: { pane: TablePane; body: TableBody }) {
  const { view, context, clock, setScope, pick, open, shortName } = useDesk();
  const { search } = useLocation();
  const { scope } = context;
  const shownNow = scope.tables[pane.id] ?? {};
  const dataSet = context.dataSets.get(pane.dataSet);
  const short = shortName(pane.dataSet);
  const order = shownNow.order ?? pane.order;
  const change = (next: TableViewState): void => setScope((now) => withTable(now, pane.id, next));
  const chosen = useMemo(
    () => shownNow.columns ?? pane.columns.filter(({ hidden }) => !hidden).map(({ field }) => field),
    [pane.columns, shownNow.columns],
  );
  const columns = useMemo(
    () =>
      chosen.flatMap((name): ColumnDef<Row>[] => {
        const column = pane.columns.find((each) => each.field === name);
        const index = body.fields.findIndex((each) => each.name === name);
        const field = body.fields[index];
        return column && field
          ? [{ id: name, accessorFn: (row) => row[index], size: column.width ?? 140, meta: field }]
          : [];
      }),
    [chosen, pane.columns, body.fields],
  );
  const table = useReactTable({
    data: body.records as Row[],
    columns,
    getCoreRowModel: getCoreRowModel(),
    columnResizeMode: 'onChange',
    manualSorting: true,
    manualPagination: true,
    defaultColumn: { minSize: 48 },
  });
  const keyAt = body.fields.findIndex(({ name }) => name === dataSet?.key);
  const titleAt = body.fields.findIndex(({ name }) => name === dataSet?.title);
  const focusOf = (row: Row): Focus | null =>
    dataSet?.key !== undefined && keyAt >= 0 && row[keyAt] !== null
      ? { dataSet: short, field: dataSet.key, value: String(row[keyAt]) }
      : null;
  const picked = scope.focus.find((focus) => focus.dataSet === short && focus.field === dataSet?.key)?.value;
  const sortBy = (field: string, add: boolean): void => {
    change({ page: 1, order: sortedBy(order, field, add) });
  };
  return (
    <div className="flex min-h-0 flex-1 flex-col gap-2">
      <div className="no-print flex items-center gap-2">
        <Search
          label={`Search ${body.noun.many}`}
          value={shownNow.search ?? ''}
          onSearch={(search) => change({ search, page: 1 })}
        />
        <span className="flex-1" />
        <div className="tools">
          <DownloadTool
            name={`Download ${pane.title}`}
            what={`All ${body.noun.many} of this table`}
            hrefOf={(format) =>
              `/view/${view.id}/save${search ? `${search}&` : '?'}_pane=${pane.id}&_as=${format}${view.draft ? '&_draft=1' : ''}`
            }
          />
          <ColumnsTool
            offered={body.fields.filter(({ name }) => pane.columns.some(({ field }) => field === name))}
            shown={columns.flatMap(({ id }) => (id ? [id] : []))}
            onChange={(names) => change({ columns: names })}
            onReset={shownNow.columns ? () => change({ columns: undefined }) : null}
          />
        </div>
      </div>
      {body.total === '0' && !shownNow.search ? (
        <Empty noun={body.noun.many} loosen={body.loosen} />
      ) : body.total === '0' ? (
        <p className="py-4 text-muted">
          No {body.noun.many} contain “{shownNow.search}”.
        </p>
      ) : (
        <Grid
          table={table}
          label={pane.title}
          clock={clock}
          order={order}
          onSort={sortBy}
          isPicked={(row) => picked !== undefined && keyAt >= 0 && String(row[keyAt]) === picked}
          onPick={(row) => {
            const focus = focusOf(row);
            if (focus) pick(focus, pane.id);
          }}
          onOpen={(row) => {
            const focus = focusOf(row);
            if (focus?.value)
              open({
                kind: 'record',
                pane: pane.id,
                key: focus.value,
                title: String(row[titleAt >= 0 ? titleAt : keyAt] ?? ''),
              });
          }}
        />
      )}
      <Pager
        page={body.page}
        size={pane.pageSize}
        total={body.total}
        shown={body.records.length}
        noun={body.noun}
        onPage={(page) => change({ page })}
      />
    </div>
  );
}
