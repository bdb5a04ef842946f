import { Check, Pencil, X } from 'lucide-react';
import { type ReactNode, useRef, useState } from 'react';
import type { ShownField } from '#core/dashboard/pane/shown.ts';
import { type Cell, cellText } from '#core/value/field/value.ts';
import { IconButton } from '../ui/button.tsx';
import { smallBox } from '../ui/field.tsx';
import { ValueInput } from '../ui/value-input.tsx';

/** A value that can be changed where it stands: Enter sends it, Esc takes it back, and what is wrong with it stands beside it. */
export function InPlace({
  field,
  cell,
  of,
  zone,
  inTable = false,
  onSend,
  children,
}: {
  field: ShownField;
  cell: Cell;
  /** What the record is called. */
  of: string;
  zone: string;
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
  const pen = useRef<HTMLButtonElement>(null);
  const close = (): void => {
    setDraft(null);
    setProblem(null);
    // The pen stands there again once this is drawn.
    setTimeout(() => pen.current?.focus());
  };
  const send = async (): Promise<void> => {
    if (!draft || busy) return;
    if (draft.value === draft.saw) return close();
    setBusy(true);
    const why = await onSend(draft.saw, draft.value);
    setBusy(false);
    if (why === null) close();
    else setProblem(why);
  };
  if (!draft)
    return (
      <span className="group/place flex min-w-0 items-center gap-1">
        <span className="min-w-0 flex-1 truncate">{children}</span>
        <button
          ref={pen}
          type="button"
          data-pen
          {...(inTable ? { tabIndex: -1 } : {})}
          aria-label={`Change ${field.label.toLowerCase()} of ${of}`}
          title={`Change ${field.label.toLowerCase()}`}
          onClick={(event) => {
            event.stopPropagation();
            setDraft({ saw, value: saw });
          }}
          className="no-print inline-flex size-6 shrink-0 items-center justify-center rounded-[4px] text-muted opacity-0 group-hover/place:opacity-100 hover:bg-wash [dd_&]:opacity-60 [tr:focus-within_&]:opacity-60 [tr:hover_&]:opacity-60 [@media(hover:none)]:opacity-60 hover:text-accent focus-visible:opacity-100"
        >
          <Pencil className="size-3.5" aria-hidden="true" />
        </button>
      </span>
    );
  return (
    // biome-ignore lint/a11y/noStaticElementInteractions: keys and clicks of the control within are not those of the record round it
    <div
      className="flex min-w-0 flex-col gap-0.5 text-left"
      onClick={(event) => event.stopPropagation()}
      onDoubleClick={(event) => event.stopPropagation()}
      onKeyDown={(event) => {
        event.stopPropagation();
        if (event.key === 'Escape') close();
        else if (event.key === 'Enter' && event.target instanceof HTMLInputElement) void send();
        else return;
        event.preventDefault();
      }}
    >
      <span className="flex min-w-0 items-center gap-1">
        <ValueInput
          aria-label={`${field.label} of ${of}`}
          field={field}
          value={draft.value}
          zone={zone}
          onChange={(value) => setDraft({ ...draft, value })}
          className={`${smallBox} flex-1`}
          autoFocus
          aria-invalid={problem !== null}
        />
        <IconButton name="Send" disabled={busy} onClick={() => void send()}>
          <Check className="size-4" />
        </IconButton>
        <IconButton name="Leave it" onClick={close}>
          <X className="size-4" />
        </IconButton>
      </span>
      {problem !== null && (
        <span role="alert" className="text-small break-words whitespace-normal text-broken">
          {problem}
        </span>
      )}
    </div>
  );
}
