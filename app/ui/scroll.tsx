import type { ComponentProps, ReactNode } from 'react';

/** A place that scrolls by itself: it has a name, and the keyboard reaches it. Its height is said by the class. */
export function Scroll({
  label,
  className = '',
  children,
  ...props
}: { label: string; children: ReactNode } & Omit<ComponentProps<'section'>, 'aria-label'>) {
  return (
    // biome-ignore lint/a11y/noNoninteractiveTabindex: a region that scrolls must be reachable by keyboard
    <section tabIndex={0} aria-label={label} className={`overflow-auto ${className}`} {...props}>
      {children}
    </section>
  );
}
