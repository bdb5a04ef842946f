import type { ReactNode } from 'react';

/** How a control looks that stands under its label. */
export const box =
  'w-full rounded-[4px] border border-line bg-sheet px-2.5 py-1.5 text-body text-ink placeholder:text-muted focus-visible:outline-offset-0 aria-invalid:border-broken';

export interface Labelled {
  readonly label: string;
  readonly hint?: string | undefined;
  readonly problem?: string | undefined;
}

/** A label, its control, a hint, and what is wrong with it, tied together for those who cannot see the page. */
export function Frame({
  label,
  hint,
  problem,
  id,
  children,
}: Labelled & { id: string; children: ReactNode }) {
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

/** What ties a control to the hint and the problem of its {@link Frame}. */
export const described = (id: string, { hint, problem }: Labelled) => ({
  'aria-invalid': problem ? true : undefined,
  'aria-describedby': problem ? `${id}-problem` : hint ? `${id}-hint` : undefined,
});
