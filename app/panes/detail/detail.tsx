import type { Offers } from '#core/change/offers.ts';
import type { DetailBody } from '#core/dashboard/pane/kinds/detail/kind.ts';
import type { DetailPane } from '#core/dashboard/pane/kinds/detail/schema.ts';
import type { ShownRecord } from '#core/dashboard/pane/shown.ts';
import { inGroups } from '#core/value/field/groups.ts';
import { type ReadBy, zoneOf } from '#core/value/format/format.ts';
import { CellView } from '../../ui/cell.tsx';
import { Quiet } from '../../ui/message.tsx';
import { Scroll } from '../../ui/scroll.tsx';
import { RecordActs } from '../act-bar.tsx';
import { InPlace } from '../in-place.tsx';
import { recordPart } from '../record-part.ts';
import type { PaneLook, PaneViewProps } from '../view.ts';

/** All that matters on one record: its pictures first, then a line for each field. */
export function DetailList({
  body: { fields, record, noun, title },
  clock,
  offers = null,
  onChange,
}: {
  body: ShownRecord;
  clock: ReadBy;
  /** The fields that can be changed where they stand. */
  offers?: Pick<Offers, 'inPlace' | 'needed'> | null;
  onChange?: (field: string, saw: string | null, value: string | null) => Promise<string | null>;
}) {
  if (!record) return <Quiet>There is no such {noun.one} any more.</Quiet>;
  const shown = fields.map((field, index) => ({ field, cell: record[index] }));
  const pictures = shown.filter(({ field }) => field.format?.kind === 'picture');
  return (
    <Scroll label="Details" className="min-h-0 flex-1">
      {pictures.map(({ field, cell }) => (
        <div key={field.name} className="mb-3">
          <CellView cell={cell} field={field} clock={clock} large />
        </div>
      ))}
      {inGroups(shown.filter(({ field }) => field.format?.kind !== 'picture')).map(({ head, lines }) => (
        <section key={head ?? ''} aria-label={head} className="not-first:pt-3">
          {head && <h3 className="pb-0.5 text-small font-strong text-slate">{head}</h3>}
          <dl className="grid grid-cols-[minmax(6rem,30%)_1fr] gap-x-4">
            {lines.map(({ field, cell }) => (
              <div key={field.name} className="col-span-2 grid grid-cols-subgrid border-b border-hair py-1.5">
                <dt className="text-small font-normal text-muted" title={field.description}>
                  {field.label}
                  {field.unit && ` (${field.unit})`}
                </dt>
                <dd className="figures min-w-0">
                  {onChange && offers?.inPlace.includes(field.name) ? (
                    <InPlace
                      field={field}
                      cell={cell ?? null}
                      of={title ?? noun.one}
                      zone={zoneOf(clock)}
                      mayBeBlank={!offers.needed.includes(field.name)}
                      onSend={(saw, value) => onChange(field.name, saw, value)}
                    >
                      <CellView cell={cell} field={field} clock={clock} large />
                    </InPlace>
                  ) : (
                    <CellView cell={cell} field={field} clock={clock} large />
                  )}
                </dd>
              </div>
            ))}
          </dl>
        </section>
      ))}
    </Scroll>
  );
}

/** The record that is picked, with what can be done to it. */
function DetailView({ pane, body, clock, recordOf, offers, actions }: PaneViewProps<DetailPane, DetailBody>) {
  const key = body.record
    ? (recordPart(pane.dataSet, recordOf(pane.dataSet).key, body.fields)(body.record)?.value ?? null)
    : null;
  const mayAct = offers !== null && offers.refusal === null && key !== null;
  return (
    <>
      <DetailList
        // What somebody has begun to change in one record is not gone on with in another.
        key={key ?? ''}
        body={body}
        clock={clock}
        {...(mayAct
          ? {
              offers,
              onChange: (field, saw, value) => actions.change(key, field, saw, value),
            }
          : {})}
      />
      {offers && key !== null && (
        <RecordActs offers={offers} onAct={(action) => actions.act(action, [key])} />
      )}
    </>
  );
}

export const detail: PaneLook<DetailPane, DetailBody> = { View: DetailView, hasTwin: false, fills: 'some' };
