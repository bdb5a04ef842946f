import type { ComponentProps } from 'react';
import { Link } from 'react-router';

type Look = 'main' | 'plain' | 'quiet';

const looks: Record<Look, string> = {
  main: 'bg-accent text-on-accent hover:bg-accent-strong border-transparent',
  plain: 'border-line text-ink hover:border-accent hover:text-accent bg-sheet',
  quiet: 'border-transparent text-accent hover:bg-wash',
};

const shape =
  'inline-flex min-h-8 items-center justify-center gap-1.5 rounded-[4px] border px-3 py-1 text-small font-strong whitespace-nowrap transition-colors disabled:opacity-50';

/** The one button. `main` is for the one thing a page is there to do. */
export function Button({
  look = 'plain',
  className = '',
  type = 'button',
  ...props
}: ComponentProps<'button'> & { look?: Look }) {
  return <button type={type} className={`${shape} ${looks[look]} ${className}`} {...props} />;
}

export function ButtonLink({
  look = 'plain',
  className = '',
  ...props
}: ComponentProps<typeof Link> & { look?: Look }) {
  return <Link className={`${shape} ${looks[look]} ${className}`} {...props} />;
}

/** A button that is only a picture; its name is spoken and shown on hover. */
export function IconButton({ name, className = '', ...props }: ComponentProps<'button'> & { name: string }) {
  return (
    <button
      type="button"
      aria-label={name}
      title={name}
      className={`inline-flex size-7 items-center justify-center rounded-[4px] text-muted hover:bg-wash hover:text-accent disabled:opacity-40 ${className}`}
      {...props}
    />
  );
}
