import { type ComponentProps, type ReactNode, useId } from 'react';
import { box, described, Frame, type Labelled } from './labelled.tsx';

/** A control in a row of several, where each is named for those who cannot see the row. */
export const smallBox =
  'min-h-8 min-w-0 max-w-full rounded-[4px] border border-line bg-sheet px-2 py-1 text-small text-ink';

export function TextField({
  label,
  hint,
  problem,
  className = '',
  ...props
}: Labelled & ComponentProps<'input'>) {
  const ownId = useId();
  const id = props.id ?? ownId;
  return (
    <Frame label={label} hint={hint} problem={problem} id={id}>
      <input
        className={`${box} ${className}`}
        {...props}
        id={id}
        {...described(id, { label, hint, problem })}
      />
    </Frame>
  );
}

export function TextAreaField({
  label,
  hint,
  problem,
  className = '',
  ...props
}: Labelled & ComponentProps<'textarea'>) {
  const ownId = useId();
  const id = props.id ?? ownId;
  return (
    <Frame label={label} hint={hint} problem={problem} id={id}>
      <textarea
        className={`${box} ${className}`}
        {...props}
        id={id}
        {...described(id, { label, hint, problem })}
      />
    </Frame>
  );
}

export function CheckField({ label, ...props }: { label: ReactNode } & ComponentProps<'input'>) {
  return (
    <label className="flex min-h-6 items-center gap-2">
      <input type="checkbox" className="size-4 shrink-0 accent-[var(--accent)]" {...props} />
      <span className="min-w-0 flex-1">{label}</span>
    </label>
  );
}
