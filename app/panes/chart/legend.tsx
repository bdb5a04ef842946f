/** What tells the parts of a chart apart: they are drawn as surfaces, or as lines. */
export type Parts = 'surfaces' | 'lines';

interface Props {
  readonly parts: Parts;
  readonly names: readonly string[];
  readonly colours: readonly string[];
  /** Which are switched off, by index. */
  readonly off: ReadonlySet<number>;
  readonly onSwitch: (index: number) => void;
  readonly label: string;
}

/** What the colours of a chart mean. Each name is a switch; record values are text here and never markup. */
export function Legend({ parts, names, colours, off, onSwitch, label }: Props) {
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
            <Swatch parts={parts} index={index} colour={off.has(index) ? 'var(--line)' : colours[index]} />
            <span className="truncate">{name}</span>
          </button>
        </li>
      ))}
    </ul>
  );
}

function Swatch({ parts, index, colour }: { parts: Parts; index: number; colour: string | undefined }) {
  if (parts === 'lines')
    return (
      <svg aria-hidden="true" className="h-2.5 w-6 shrink-0">
        <line data-swatch={index} x2="100%" y1="50%" y2="50%" stroke={colour} strokeWidth="2.25" />
      </svg>
    );
  return (
    <svg aria-hidden="true" className="size-2.5 shrink-0 print:size-4">
      <rect data-swatch={index} width="100%" height="100%" fill={colour} />
    </svg>
  );
}
