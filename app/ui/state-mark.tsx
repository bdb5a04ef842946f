import type { Tone } from '#core/value/field/types.ts';

const colours: Record<Tone, string> = {
  settled: 'text-settled',
  moving: 'text-moving',
  waiting: 'text-waiting',
  slipping: 'text-slipping',
  broken: 'text-broken',
};

/** Each tone has a shape of its own, so that states are told apart without colour. */
const shapes: Record<Tone, React.ReactNode> = {
  settled: <circle cx="6" cy="6" r="5" fill="currentColor" />,
  moving: (
    <>
      <circle cx="6" cy="6" r="4.25" fill="none" stroke="currentColor" strokeWidth="1.5" />
      <path d="M6 1.75a4.25 4.25 0 0 1 0 8.5z" fill="currentColor" />
    </>
  ),
  waiting: <circle cx="6" cy="6" r="4.25" fill="none" stroke="currentColor" strokeWidth="1.5" />,
  slipping: <path d="M6 1 11.5 10.8H.5z" fill="currentColor" />,
  broken: (
    <>
      <rect x=".75" y=".75" width="10.5" height="10.5" fill="none" stroke="currentColor" strokeWidth="1.5" />
      <path d="M3.4 3.4 8.6 8.6M8.6 3.4 3.4 8.6" stroke="currentColor" strokeWidth="1.6" />
    </>
  ),
};

/** A state: shape, tone and word; without a word the shape alone, which stands among words as one of them. */
export function StateMark({ tone, word }: { tone: Tone; word: string }) {
  if (word === '')
    return (
      <svg
        viewBox="0 0 12 12"
        className={`inline size-3 align-[-0.05em] ${colours[tone]}`}
        aria-hidden="true"
      >
        {shapes[tone]}
      </svg>
    );
  return (
    <span className={`inline-flex items-baseline gap-1.5 ${colours[tone]}`}>
      <svg viewBox="0 0 12 12" className="size-3 shrink-0 self-center" aria-hidden="true">
        {shapes[tone]}
      </svg>
      <span className="font-strong">{word}</span>
    </span>
  );
}
