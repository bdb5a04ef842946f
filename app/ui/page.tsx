import type { ReactNode } from 'react';

/** A page of the workroom: its title, a line under it, and what one does there. */
export function Page({
  title,
  lead,
  action,
  children,
  wide = false,
}: {
  title: string;
  lead?: ReactNode;
  action?: ReactNode;
  children: ReactNode;
  wide?: boolean;
}) {
  return (
    <main
      id="main"
      tabIndex={-1}
      className={`mx-auto px-4 pt-7 pb-20 sm:px-7 ${wide ? 'max-w-[1680px]' : 'max-w-[1240px]'}`}
    >
      <title>{`${title} · Slate Glass`}</title>
      <header className="mb-6 flex flex-wrap items-start justify-between gap-3">
        <div className="min-w-0">
          <h1 className="line-clamp-3 text-title sm:line-clamp-1" title={title}>
            {title}
          </h1>
          {lead && <p className="text-slate">{lead}</p>}
        </div>
        {action}
      </header>
      {children}
    </main>
  );
}

export function Section({
  id,
  title,
  action,
  children,
  note,
}: {
  id?: string;
  title: string;
  action?: ReactNode;
  children: ReactNode;
  note?: ReactNode;
}) {
  return (
    <section id={id} aria-label={title} className="min-w-0">
      <header className="mb-1 flex min-h-9 items-center justify-between gap-3 border-b border-line pb-1">
        <h2 className="text-lead font-strong">{title}</h2>
        {action}
      </header>
      {note && <p className="mb-2 text-small text-muted">{note}</p>}
      {children}
    </section>
  );
}
