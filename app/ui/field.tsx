import { type ComponentProps, type ReactNode, useId } from 'react';
import { ChoiceBox, type ChoiceProps } from './choice.tsx';

const box =
  'w-full rounded-[4px] border border-line bg-sheet px-2.5 py-1.5 text-body text-ink placeholder:text-muted focus-visible:outline-offset-0 aria-invalid:border-broken';

/** A control in a row of several, where each is named for those who cannot see the row. */
export const smallBox =
  'min-h-8 min-w-0 max-w-full rounded-[4px] border border-line bg-sheet px-2 py-1 text-small text-ink';

interface Labelled {
  readonly label: string;
  readonly hint?: string | undefined;
  readonly problem?: string | undefined;
}

/** A label, its control, a hint, and what is wrong with it, tied together for those who cannot see the page. */
function Frame({ label, hint, problem, id, children }: Labelled & { id: string; children: ReactNode }) {
  return (
    <div className="flex flex-col gap-1">
      <label htmlFor={id} className="text-small font-strong text-slate">
        {label}
      </label>
      {children}
      {hint && !problem && (
        <p id={`${id}-hint`} className="text-small text-muted">
          {hint}
        </p>
      )}
      {problem && (
        <p id={`${id}-problem`} className="text-small text-broken" role="alert">
          {problem}
        </p>
      )}
    </div>
  );
}

const described = (id: string, { hint, problem }: Labelled) => ({
  'aria-invalid': problem ? true : undefined,
  'aria-describedby': problem ? `${id}-problem` : hint ? `${id}-hint` : undefined,
});

export function TextField({
  label,
  hint,
  problem,
  className = '',
  ...props
}: Labelled & ComponentProps<'input'>) {
  const made = useId();
  const id = props.id ?? made;
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
  const made = useId();
  const id = props.id ?? made;
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

export function SelectField<V extends string>({
  label,
  hint,
  problem,
  id: given,
  ...props
}: Labelled & Omit<ChoiceProps<V>, 'className' | 'aria-label'>) {
  const made = useId();
  const id = given ?? made;
  return (
    <Frame label={label} hint={hint} problem={problem} id={id}>
      <ChoiceBox className={box} {...props} id={id} {...described(id, { label, hint, problem })} />
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
