import type { ShownField } from '#core/dashboard/pane/shown.ts';
import { Button } from '../ui/button.tsx';
import { smallBox } from '../ui/field.tsx';
import { ValueInput } from '../ui/value-input.tsx';

/** Asks for the value that a field is to have, in its place. */
export function PlaceForm({
  field,
  of,
  zone,
  mayBeBlank,
  value,
  problem,
  busy,
  onChange,
  onSend,
  onCancel,
}: {
  field: ShownField;
  /** What the record is called. */
  of: string;
  zone: string;
  mayBeBlank: boolean;
  value: string | null;
  /** What is wrong with what was sent. */
  problem: string | null;
  busy: boolean;
  onChange: (value: string | null) => void;
  onSend: () => void;
  onCancel: () => void;
}) {
  return (
    <form
      className="flex flex-col gap-2"
      onSubmit={(event) => {
        event.preventDefault();
        onSend();
      }}
    >
      <p className="text-small text-slate">
        <span className="font-strong">{field.label}</span>
        {field.unit && ` (${field.unit})`} of {of}
      </p>
      <ValueInput
        aria-label={field.label}
        field={field}
        value={value}
        mayBeBlank={mayBeBlank}
        zone={zone}
        onChange={onChange}
        className={`${smallBox} w-full`}
        autoFocus
        aria-invalid={problem !== null}
      />
      {problem !== null && (
        <p role="alert" className="text-small text-broken">
          {problem}
        </p>
      )}
      <div className="flex gap-2">
        <Button type="submit" look="main" disabled={busy}>
          {busy ? 'Sending …' : 'Change it'}
        </Button>
        <Button look="quiet" onClick={onCancel}>
          Cancel
        </Button>
      </div>
    </form>
  );
}
