import Pencil from 'lucide-react/icons/pencil';
import { type ReactNode, useState } from 'react';
import type { ShownField } from '#core/dashboard/pane/shown.ts';
import { type Cell, cellText } from '#core/value/field/value.ts';
import { Later, later } from '../ui/later.tsx';
import { Popover } from '../ui/popover.tsx';

const placeForm = later(() => import('./place-form.tsx').then((module) => module.PlaceForm));

/** A value that can be changed where it stands: Enter sends it, Esc takes it back, and what is wrong with it stands beside it. */
export function InPlace({
  field,
  cell,
  of,
  zone,
  mayBeBlank,
  inTable = false,
  onSend,
  children,
}: {
  field: ShownField;
  cell: Cell;
  /** What the record is called. */
  of: string;
  zone: string;
  mayBeBlank: boolean;
  /** Keys of the table lead to it. */
  inTable?: boolean;
  onSend: (saw: string | null, value: string | null) => Promise<string | null>;
  children: ReactNode;
}) {
  const saw = cellText(cell);
  const [draft, setDraft] = useState<{ readonly saw: string | null; readonly value: string | null } | null>(
    null,
  );
  const [problem, setProblem] = useState<string | null>(null);
  const [busy, setBusy] = useState(false);
  const turn = (isOpen: boolean): void => {
    setDraft(isOpen ? { saw, value: saw } : null);
    setProblem(null);
  };
  const send = async (): Promise<void> => {
    if (!draft || busy) return;
    if (draft.value === draft.saw) return turn(false);
    setBusy(true);
    const why = await onSend(draft.saw, draft.value);
    setBusy(false);
    if (why === null) turn(false);
    else setProblem(why);
  };
  return (
    <span className="group/place flex min-w-0 items-center gap-1">
      <span className="min-w-0 flex-1 truncate">{children}</span>
      {/* biome-ignore lint/a11y/noStaticElementInteractions: keys and clicks of the control within are not those of the record round it */}
      <span
        className="flex"
        onClick={(event) => event.stopPropagation()}
        onDoubleClick={(event) => event.stopPropagation()}
        onKeyDown={(event) => {
          if (draft) event.stopPropagation();
        }}
      >
        <Popover
          label={`${field.label} of ${of}`}
          open={draft !== null}
          onOpenChange={turn}
          trigger={
            <button
              type="button"
              data-pen
              {...(inTable ? { tabIndex: -1 } : {})}
              aria-label={`Change ${field.label.toLowerCase()} of ${of}`}
              title={`Change ${field.label.toLowerCase()}`}
              className="no-print inline-flex size-6 shrink-0 items-center justify-center rounded-[4px] text-muted opacity-0 group-hover/place:opacity-100 hover:bg-wash hover:text-accent focus-visible:opacity-100 data-[state=open]:opacity-100 [dd_&]:opacity-60 [tr:focus-within_&]:opacity-60 [tr:hover_&]:opacity-60 [@media(hover:none)]:opacity-60"
            >
              <Pencil className="size-3.5" aria-hidden="true" />
            </button>
          }
        >
          {draft && (
            <Later
              of={placeForm}
              props={{
                field,
                of,
                zone,
                mayBeBlank,
                busy,
                problem,
                value: draft.value,
                onChange: (value) => setDraft({ ...draft, value }),
                onSend: () => void send(),
                onCancel: () => turn(false),
              }}
            />
          )}
        </Popover>
      </span>
    </span>
  );
}
