import { type ColumnDef, getCoreRowModel, useReactTable } from '@tanstack/react-table';
import { use, useEffect, useMemo } from 'react';
import type { ListOrder } from '#core/dashboard/pane/list-view.ts';
import type { RecordList } from '#core/dashboard/pane/shown.ts';
import type { Cell } from '#core/value/field/value.ts';
import type { Marks } from '../../panes/marks.ts';
import { Grid } from '../../panes/table/grid.tsx';
import { markingOf } from '../../panes/table/marking.ts';
import type { ColumnMeta } from '../../panes/table/record-row.tsx';
import { useDesk } from '../desk-context.ts';
import { ListContext, type OpenedRecord } from './neighbours.ts';

/** A list of records whose rows open. */
export function Records({
  table: body,
  pane,
  keyField,
  titleField,
  label,
  shown,
  order = [],
  marks = null,
  onAct,
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
  /** They can be marked, to act on them. */
  marks?: Marks | null;
  /** Goes to what can be done to those that are marked. */
  onAct?: () => void;
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
  const keyOf = (row: readonly Cell[]): string | null => {
    const key = cellOf(row, keyField);
    return key === null ? null : String(key);
  };
  const openedOf = (row: readonly Cell[]): OpenedRecord | null => {
    const key = keyOf(row);
    if (key === null) return null;
    return { kind: 'record', pane, key, title: String(cellOf(row, titleField) ?? key) };
  };
  const openRow = (row: readonly Cell[]): void => {
    const opened = openedOf(row);
    if (opened) open(opened);
  };
  const tellList = use(ListContext);
  useEffect(() =>
    tellList(
      pane,
      body.records.flatMap((row) => openedOf(row as readonly Cell[]) ?? []),
    ),
  );
  return (
    <Grid
      table={table}
      label={label}
      clock={clock}
      order={order}
      {...(onSort ? { onSort } : {})}
      marking={
        marks &&
        markingOf(
          marks,
          { records: body.records, keyOf, nameOf: (row) => String(cellOf(row, titleField) ?? keyOf(row)) },
          () => onAct?.(),
        )
      }
      isPicked={() => false}
      onPick={openRow}
      onOpen={openRow}
    />
  );
}
