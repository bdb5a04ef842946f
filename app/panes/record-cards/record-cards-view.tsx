import { type KeyboardEvent, useRef } from 'react';
import type { RecordCardsBody } from '#core/dashboard/pane/kinds/record-cards/kind.ts';
import type { RecordCardsPane } from '#core/dashboard/pane/kinds/record-cards/schema.ts';
import { listViewOf } from '#core/dashboard/pane/list-view.ts';
import { type Cell, isNumeric } from '#core/value/field/value.ts';
import { formatCell } from '#core/value/format/format.ts';
import { bandLook } from '../../ui/band.ts';
import { CellView } from '../../ui/cell.tsx';
import { RecordActs } from '../act-bar.tsx';
import { ListBody, ListFrame } from '../list-frame.tsx';
import { recordPart } from '../record-part.ts';
import type { PaneViewProps } from '../view.ts';

type Row = readonly Cell[];

/** Records as cards. Picking one makes it what is looked at; Enter or a double click opens it. */
export function RecordCardsView({
  pane,
  body,
  clock,
  view,
  recordOf,
  isPicked,
  offers,
  actions,
  fileOf,
}: PaneViewProps<RecordCardsPane, RecordCardsBody>) {
  const look = listViewOf(view);
  const list = useRef<HTMLUListElement>(null);
  const { fields, records, noun } = body;
  const record = recordOf(pane.dataSet);
  const at = (name: string | undefined): number => fields.findIndex((field) => field.name === name);
  const [keyAt, titleAt, pictureAt] = [at(record.key), at(record.title), at(pane.picture)];
  const pictureField = fields[pictureAt];
  const shown = pane.fields.filter((name) => name !== record.title).map(at);
  const partOf = recordPart(pane.dataSet, record.key, fields);
  const nameOf = (row: Row): string => {
    const named = titleAt >= 0 ? titleAt : keyAt;
    const field = fields[named];
    return field ? formatCell(row[named], field, clock) : noun.one;
  };
  const open = (row: Row): void => {
    const key = partOf(row)?.value;
    if (key) actions.open({ kind: 'record', key, title: nameOf(row) });
  };
  const pick = (row: Row): void => {
    const part = partOf(row);
    if (part) actions.pick([part]);
  };
  const onKeyDown = (event: KeyboardEvent<HTMLElement>, row: Row): void => {
    if (event.target !== event.currentTarget) return;
    const cards = [...(list.current?.querySelectorAll<HTMLElement>('[data-card]') ?? [])];
    const here = cards.indexOf(event.currentTarget);
    const next = { ArrowRight: 1, ArrowDown: 1, ArrowLeft: -1, ArrowUp: -1 }[event.key];
    if (next !== undefined) cards[here + next]?.focus();
    else if (event.key === ' ') pick(row);
    else if (event.key === 'Enter') open(row);
    else return;
    event.preventDefault();
  };
  const start = Math.max(
    0,
    records.findIndex((row) => {
      const part = partOf(row);
      return part !== null && isPicked(part);
    }),
  );
  const cards = (
    <ul
      ref={list}
      aria-label={pane.title}
      className="grid min-h-0 flex-initial grid-cols-[repeat(auto-fill,minmax(13.5rem,1fr))] gap-x-6 gap-y-4 overflow-auto p-0.5"
    >
      {records.map((row, index) => {
        const part = partOf(row);
        const picked = part !== null && isPicked(part);
        return (
          <li key={part?.value ?? index} className="min-w-0">
            {/* biome-ignore lint/a11y/useSemanticElements: a card holds marks and pictures that no button may */}
            <div
              data-card
              role="button"
              aria-pressed={picked}
              aria-label={nameOf(row)}
              tabIndex={index === start ? 0 : -1}
              onClick={(event) => {
                // Words that were selected to be copied are no pick.
                if (!window.getSelection()?.toString()) pick(row);
                event.currentTarget.focus({ preventScroll: true });
              }}
              onDoubleClick={() => open(row)}
              onKeyDown={(event) => onKeyDown(event, row)}
              className={`flex h-full cursor-pointer flex-col gap-1.5 border-t-2 pt-2 pb-1 ${picked ? 'border-accent bg-wash' : 'border-line hover:border-accent'}`}
            >
              {pictureField && row[pictureAt] !== null && (
                <span className="flex h-20 items-center justify-center overflow-hidden [&_img]:max-h-20 [&_img]:w-auto">
                  <CellView cell={row[pictureAt]} field={pictureField} clock={clock} large />
                </span>
              )}
              <span className="truncate font-strong" title={nameOf(row)}>
                {nameOf(row)}
              </span>
              <dl className="grid grid-cols-[auto_1fr] gap-x-3 text-small">
                {shown.map((which) => {
                  const field = fields[which];
                  if (!field) return null;
                  const band = bandLook(row[which], field.bands);
                  return (
                    <div key={field.name} className="col-span-2 grid grid-cols-subgrid py-0.5">
                      <dt className="font-normal text-muted">{field.label}</dt>
                      <dd
                        title={band.title}
                        className={`figures min-w-0 truncate text-right ${band.className}`}
                      >
                        <CellView cell={row[which]} field={field} clock={clock} />
                        {field.unit && isNumeric(field.type) && row[which] !== null && (
                          <span className="text-muted"> {field.unit}</span>
                        )}
                      </dd>
                    </div>
                  );
                })}
              </dl>
            </div>
            {offers && part?.value && (
              <RecordActs
                offers={offers}
                isQuiet
                onAct={(action) => part.value !== null && actions.act(action, [part.value])}
              />
            )}
          </li>
        );
      })}
    </ul>
  );
  // What is in step has its search, its page and how many there are in the other list.
  return pane.inStepWith === undefined ? (
    <ListFrame
      title={pane.title}
      what={`All ${noun.many} of it`}
      body={body}
      pageSize={pane.pageSize}
      look={look}
      actions={actions}
      fileOf={fileOf}
    >
      {cards}
    </ListFrame>
  ) : (
    <ListBody body={body} search={look.search} actions={actions}>
      {cards}
    </ListBody>
  );
}
