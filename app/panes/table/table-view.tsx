import { type ColumnDef, getCoreRowModel, useReactTable } from '@tanstack/react-table';
import { useMemo, useRef } from 'react';
import { groupName, groupValue, isWithin } from '#core/dashboard/pane/kinds/table/group.ts';
import type { TableBody } from '#core/dashboard/pane/kinds/table/kind.ts';
import type { TablePane } from '#core/dashboard/pane/kinds/table/schema.ts';
import { narrowest, widest } from '#core/dashboard/pane/kinds/table/widths.ts';
import { listViewOf, listViewParts, sortedBy } from '#core/dashboard/pane/list-view.ts';
import { zoneOf } from '#core/value/format/format.ts';
import { ActBar } from '../act-bar.tsx';
import { InPlace } from '../in-place.tsx';
import { ListFrame } from '../list-frame.tsx';
import { useMarks } from '../marks.ts';
import { recordPart } from '../record-part.ts';
import type { PaneViewProps } from '../view.ts';
import { Grid } from './grid.tsx';
import type { Grouping } from './group-row.tsx';
import { goToActions, markingOf } from './marking.ts';
import type { ColumnMeta, Row } from './record-row.tsx';
import { rowIdsOf } from './row-ids.ts';
import { ColumnsTool, PasteTool } from './tools.tsx';
import { useWidths } from './use-widths.ts';

/** Records, sorted, searched and paged at the source. Picking one makes it what is looked at. */
export function TableView({
  pane,
  body,
  clock,
  view,
  recordOf,
  isPicked,
  offers,
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
  const [widths, setWidths] = useWidths(view, actions.look);
  const record = recordOf(pane.dataSet);
  const keyAt = body.fields.findIndex(({ name }) => name === record.key);
  const rowIds = useMemo(() => rowIdsOf(body.records, keyAt), [body.records, keyAt]);
  const table = useReactTable({
    data: body.records as Row[],
    columns,
    getRowId: (_, index) => rowIds[index] ?? '',
    getCoreRowModel: getCoreRowModel(),
    columnResizeMode: 'onChange',
    manualSorting: true,
    manualPagination: true,
    defaultColumn: { minSize: narrowest, maxSize: widest },
    state: { columnSizing: widths },
    onColumnSizingChange: setWidths,
  });
  const titleAt = body.fields.findIndex(({ name }) => name === record.title);
  const partOf = recordPart(pane.dataSet, record.key, body.fields);
  const keyOf = (row: Row): string | null => partOf(row)?.value ?? null;
  const nameOf = (row: Row): string => String(row[titleAt >= 0 ? titleAt : keyAt] ?? body.noun.one);
  const closed = useMemo(() => new Set(view.closed ?? []), [view.closed]);
  const { groups } = body;
  const heads = useMemo(
    () =>
      new Map(
        groups?.flatMap(({ heads }) => heads ?? []).map((head) => [groupName(head.values), head] as const),
      ),
    [groups],
  );
  const grouping: Grouping | null = groups
    ? {
        groups,
        noun: body.noun,
        pathOf: (row) =>
          groups.map((group) => {
            const at = body.fields.findIndex(({ name }) => name === group.field.name);
            return groupValue(row[at] ?? null, group, zoneOf(clock));
          }),
        headOf: (path) => heads.get(groupName(path)) ?? null,
        isClosed: (path) => closed.has(groupName(path)),
        isHidden: (path) => isWithin(closed, path),
        turn: (path) => {
          const name = groupName(path);
          actions.look({
            closed: closed.has(name) ? [...closed].filter((each) => each !== name) : [...closed, name],
          });
        },
      }
    : null;
  const isInView = (row: Row): boolean => {
    const path = grouping?.pathOf(row) ?? [];
    return !grouping || !(grouping.isHidden(path) || grouping.isClosed(path));
  };
  /** The keys of a record and of those under it that are in view. */
  const recordsFrom = (row: Row): string[] =>
    body.records
      .slice(body.records.indexOf(row))
      .filter(isInView)
      .flatMap((each) => keyOf(each) ?? []);
  const marks = useMarks();
  const mayAct = offers !== null && offers.refusal === null;
  const mayPaste =
    mayAct && (offers.inPlace.length > 0 || offers.actions.some(({ way }) => way === 'insert'));
  const bar = useRef<HTMLDivElement>(null);
  const marking =
    mayAct && offers.actions.some(({ way }) => way !== 'insert')
      ? markingOf(marks, { records: body.records, keyOf, nameOf }, () => goToActions(bar.current))
      : null;
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
        <>
          {mayPaste && <PasteTool onPaste={() => actions.paste(null)} />}
          <ColumnsTool
            offered={body.fields.filter(({ name }) => pane.columns.some(({ field }) => field === name))}
            shown={shown}
            onChange={(columns) => actions.look(listViewParts({ columns }))}
            onReset={
              look.columns || view.widths
                ? () => actions.look({ ...listViewParts({ columns: null }), widths: [] })
                : null
            }
          />
        </>
      }
      below={
        offers && (
          <div ref={bar}>
            <ActBar
              offers={offers}
              marked={marks.marked}
              total={body.total}
              noun={body.noun}
              onAct={(action) =>
                actions.act(action, marks.marked === 'all' ? 'all' : [...marks.marked], marks.unmark)
              }
              onMarkAll={marks.markAll}
              onUnmark={marks.unmark}
            />
          </div>
        )
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
        grouping={grouping}
        marking={marking}
        editor={
          mayAct && offers.inPlace.length > 0
            ? (row, field, shown) => {
                const key = keyOf(row);
                const at = body.fields.findIndex(({ name }) => name === field.name);
                if (key === null || !offers.inPlace.includes(field.name)) return null;
                return (
                  <InPlace
                    field={field}
                    cell={row[at] ?? null}
                    of={nameOf(row)}
                    zone={zoneOf(clock)}
                    mayBeBlank={!offers.needed.includes(field.name)}
                    inTable
                    onSend={(saw, value) => actions.change(key, field.name, saw, value)}
                  >
                    {shown}
                  </InPlace>
                );
              }
            : undefined
        }
        onPaste={
          mayPaste
            ? (row, field, text) =>
                actions.paste(
                  field === null || !offers.inPlace.includes(field)
                    ? { text }
                    : { text, onto: { keys: recordsFrom(row), fields: shown.slice(shown.indexOf(field)) } },
                )
            : undefined
        }
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
              title: nameOf(row),
            });
        }}
      />
    </ListFrame>
  );
}
