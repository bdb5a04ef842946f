import { Link } from 'react-router';
import type { NextOneBody } from '#core/dashboard/pane/kinds/next-one/kind.ts';
import type { NextOnePane } from '#core/dashboard/pane/kinds/next-one/schema.ts';
import { isNumeric } from '#core/value/field/value.ts';
import { formatCell } from '#core/value/format/format.ts';
import { CellView } from '../../ui/cell.tsx';
import { Empty } from '../empty.tsx';
import type { PaneLook, PaneViewProps } from '../view.ts';

/** The record by its name, which opens it, and what is most needed of it. */
function NextOneView({ pane, body, clock, actions }: PaneViewProps<NextOnePane, NextOneBody>) {
  const { record, key, fields, noun } = body;
  if (!record) return <Empty noun={noun.many} loosen={body.loosen} onLoosen={actions.loosen} />;
  const named = fields.find(
    (field, at) => !pane.fields.includes(field.name) && String(record[at]) === body.title,
  );
  const title =
    named && body.title !== null ? formatCell(body.title, named, clock) : (body.title ?? noun.one);
  return (
    <div className="flex min-w-0 flex-col items-start gap-0.5">
      {key === null ? (
        <span className="text-title font-strong tracking-tight">{title}</span>
      ) : (
        <Link
          to={actions.hrefOf({ kind: 'record', title, key })}
          preventScrollReset
          className="max-w-full truncate rounded-[3px] text-title font-strong tracking-tight hover:text-accent"
        >
          {title}
        </Link>
      )}
      <p className="flex max-w-full flex-wrap gap-x-3 text-small text-slate">
        {fields.map((field, at) =>
          pane.fields.includes(field.name) && String(record[at] ?? '') !== body.title ? (
            <span key={field.name} className="figures" title={field.label}>
              <span className="sr-only">{field.label}: </span>
              <CellView cell={record[at]} field={field} clock={clock} />
              {field.unit && isNumeric(field.type) && <span className="text-muted"> {field.unit}</span>}
            </span>
          ) : null,
        )}
      </p>
    </div>
  );
}

export const nextOne: PaneLook<NextOnePane, NextOneBody> = {
  View: NextOneView,
  hasTwin: false,
  fills: 'little',
};
