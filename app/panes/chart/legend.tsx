interface Props {
  readonly names: readonly string[];
  readonly colours: readonly string[];
  /** Which are switched off, by index. */
  readonly off: ReadonlySet<number>;
  readonly onSwitch: (index: number) => void;
  readonly label: string;
}

/** What the colours of a chart mean. Each name is a switch; record values are text here and never markup. */
export function Legend({ names, colours, off, onSwitch, label }: Props) {
  return (
    <ul aria-label={label} className="flex max-h-16 flex-wrap gap-x-3 overflow-y-auto text-small">
      {names.map((name, index) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: two series may have one name
        <li key={index} className="min-w-0">
          <button
            type="button"
            aria-pressed={!off.has(index)}
            title={off.has(index) ? `Show ${name}` : `Hide ${name}`}
            onClick={() => onSwitch(index)}
            className={`inline-flex min-h-6 max-w-56 items-center gap-1.5 hover:text-accent ${off.has(index) ? 'text-muted line-through' : ''}`}
          >
            <span
              aria-hidden="true"
              className="size-2.5 shrink-0"
              style={{ background: off.has(index) ? 'var(--line)' : colours[index] }}
            />
            <span className="truncate">{name}</span>
          </button>
        </li>
      ))}
    </ul>
  );
}
