import { type ColumnDef, getCoreRowModel, useReactTable } from '@tanstack/react-table';
import { useMemo } from 'react';
import type { TableBody } from '#core/dashboard/pane/kinds/table/kind.ts';
import type { TablePane } from '#core/dashboard/pane/kinds/table/schema.ts';
import { listViewOf, listViewParts, sortedBy } from '#core/dashboard/pane/list-view.ts';
import type { Cell } from '#core/value/field/value.ts';
import { ListFrame } from '../list-frame.tsx';
import { recordPart } from '../record-part.ts';
import type { PaneLook, PaneViewProps } from '../view.ts';
import { type ColumnMeta, Grid } from './grid.tsx';
import { ColumnsTool } from './tools.tsx';

type Row = readonly Cell[];

/** Records, sorted, searched and paged at the source. Picking one makes it what is looked at. */
function TableView({
  pane,
  body,
  clock,
  view,
  recordOf,
  isPicked,
  actions,
  fileOf,
}: PaneViewProps<TablePane, TableBody>) {
  const look = useMemo(() => listViewOf(view), [view]);
  const order = look.order.length > 0 ? look.order : pane.order;
  const chosen = useMemo(
    () => look.columns ?? pane.columns.filter(({ hidden }) => !hidden).map(({ field }) => field),
    [pane.columns, look.columns],
  );
  const columns = useMemo(
    () =>
      chosen.flatMap((name): ColumnDef<Row>[] => {
        const column = pane.columns.find((each) => each.field === name);
        const index = body.fields.findIndex((each) => each.name === name);
        const field = body.fields[index];
        return column && field
          ? [
              {
                id: name,
                accessorFn: (row) => row[index],
                size: column.width ?? 140,
                meta: { field, column } satisfies ColumnMeta,
              },
            ]
          : [];
      }),
    [chosen, pane.columns, body.fields],
  );
  const shown = columns.flatMap(({ id }) => (id ? [id] : []));
  const table = useReactTable({
    data: body.records as Row[],
    columns,
    getCoreRowModel: getCoreRowModel(),
    columnResizeMode: 'onChange',
    manualSorting: true,
    manualPagination: true,
    defaultColumn: { minSize: 48 },
  });
  const record = recordOf(pane.dataSet);
  const keyAt = body.fields.findIndex(({ name }) => name === record.key);
  const titleAt = body.fields.findIndex(({ name }) => name === record.title);
  const partOf = recordPart(pane.dataSet, record.key, body.fields);
  return (
    <ListFrame
      title={pane.title}
      what={`All ${body.noun.many} of this table`}
      body={body}
      pageSize={pane.pageSize}
      look={look}
      actions={actions}
      fileOf={fileOf}
      tools={
        <ColumnsTool
          offered={body.fields.filter(({ name }) => pane.columns.some(({ field }) => field === name))}
          shown={shown}
          onChange={(columns) => actions.look(listViewParts({ columns }))}
          onReset={look.columns ? () => actions.look(listViewParts({ columns: null })) : null}
        />
      }
    >
      <Grid
        table={table}
        label={pane.title}
        clock={clock}
        order={order}
        onMove={(field, to) => {
          const others = shown.filter((name) => name !== field);
          actions.look(listViewParts({ columns: [...others.slice(0, to), field, ...others.slice(to)] }));
        }}
        held={pane.held ?? 0}
        foot={body}
        onSort={(field, add) => actions.look(listViewParts({ page: 1, order: sortedBy(order, field, add) }))}
        isPicked={(row) => {
          const part = partOf(row);
          return part !== null && isPicked(part);
        }}
        onPick={(row) => {
          const part = partOf(row);
          if (part) actions.pick([part]);
        }}
        onOpen={(row) => {
          const key = partOf(row)?.value;
          if (key)
            actions.open({
              kind: 'record',
              key,
              title: String(row[titleAt >= 0 ? titleAt : keyAt] ?? ''),
            });
        }}
      />
    </ListFrame>
  );
}

export const table: PaneLook<TablePane, TableBody> = { View: TableView, hasTwin: false, fills: 'some' };
