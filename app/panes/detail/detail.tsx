import type { DetailBody } from '#core/dashboard/pane/kinds/detail/kind.ts';
import type { DetailPane } from '#core/dashboard/pane/kinds/detail/schema.ts';
import type { ShownRecord } from '#core/dashboard/pane/shown.ts';
import type { ReadBy } from '#core/value/format/format.ts';
import { CellView } from '../../ui/cell.tsx';
import { Quiet } from '../../ui/message.tsx';
import { Scroll } from '../../ui/scroll.tsx';
import type { PaneLook } from '../view.ts';

/** All that matters on one record: its pictures first, then a line for each field. */
export function DetailList({ body: { fields, record, noun }, clock }: { body: ShownRecord; clock: ReadBy }) {
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
      <dl className="grid grid-cols-[minmax(6rem,auto)_1fr] gap-x-4">
        {shown
          .filter(({ field }) => field.format?.kind !== 'picture')
          .map(({ field, cell }) => (
            <div key={field.name} className="col-span-2 grid grid-cols-subgrid border-b border-hair py-1.5">
              <dt className="text-small font-normal text-muted" title={field.description}>
                {field.label}
                {field.unit && ` (${field.unit})`}
              </dt>
              <dd className="figures min-w-0 break-words">
                <CellView cell={cell} field={field} clock={clock} large />
              </dd>
            </div>
          ))}
      </dl>
    </Scroll>
  );
}

export const detail: PaneLook<DetailPane, DetailBody> = { View: DetailList, hasTwin: false, fills: 'some' };
