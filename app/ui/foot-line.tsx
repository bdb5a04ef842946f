import type { ReactNode } from 'react';

/** What a page says at its foot, over whatever stands there; nothing while it has no children. Screen readers hear what comes. */
export function FootLine({ name, children }: { name: string; children: ReactNode }) {
  return (
    <div
      role="status"
      aria-label={name}
      className="no-print pointer-events-none fixed inset-x-0 bottom-4 z-50 flex justify-center px-4"
    >
      {children && (
        <div className="appear pointer-events-auto flex max-w-2xl items-center gap-3 rounded-[6px] border border-line bg-sheet py-2 pr-2 pl-4 text-ink shadow-[0_8px_28px_rgb(0_0_0/0.16)]">
          {children}
        </div>
      )}
    </div>
  );
}
