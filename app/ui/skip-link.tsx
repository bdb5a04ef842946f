/** Leads past what whoever uses the keyboard meets first. It is seen once it has the keyboard. */
export const SkipLink = ({ to, children }: { readonly to: string; readonly children: string }) => (
  <a
    href={`#${to}`}
    className="no-print sr-only focus-visible:not-sr-only focus-visible:fixed focus-visible:top-2 focus-visible:left-2 focus-visible:z-50 focus-visible:rounded-[4px] focus-visible:bg-sheet focus-visible:px-3 focus-visible:py-2 focus-visible:text-accent"
  >
    {children}
  </a>
);
