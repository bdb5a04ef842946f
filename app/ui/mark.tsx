/** Our mark: a pane of slate laid over another, offset, with one clear corner. */
export function Mark({ className = 'size-5' }: { className?: string }) {
  return (
    <svg viewBox="0 0 24 24" className={className} aria-hidden="true">
      <path d="M3 6.5 15 3v12.5L3 19z" fill="currentColor" opacity=".55" />
      <path
        d="M9 8.5 21 5v12.5L9 21z"
        fill="none"
        stroke="currentColor"
        strokeWidth="1.8"
        strokeLinejoin="round"
      />
    </svg>
  );
}
