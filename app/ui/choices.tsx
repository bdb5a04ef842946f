/** A list of choices, one of which stands. */
export function Choices({
  choices,
  now,
  onChoose,
}: {
  choices: readonly { value: string; words: string; more?: string }[];
  now: string;
  onChoose: (value: string) => void;
}) {
  return (
    <ul className="flex flex-col">
      {choices.map(({ value, words, more }) => (
        <li key={value}>
          <button
            type="button"
            aria-pressed={value === now}
            onClick={() => onChoose(value)}
            className={`w-full border-b border-hair py-1.5 text-left hover:bg-wash hover:text-accent ${value === now ? 'font-strong text-accent' : ''}`}
          >
            {words}
            {more && <span className="block text-small font-normal text-muted">{more}</span>}
          </button>
        </li>
      ))}
    </ul>
  );
}
