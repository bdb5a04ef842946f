import ArrowDown from 'lucide-react/icons/arrow-down';
import ArrowUp from 'lucide-react/icons/arrow-up';
import SlidersHorizontal from 'lucide-react/icons/sliders-horizontal';
import { type ReactNode, useState } from 'react';
import { IconButton } from './button.tsx';
import { CheckField } from './field.tsx';

interface Props {
  readonly offered: readonly { readonly name: string; readonly label: string }[];
  readonly chosen: readonly string[];
  readonly onChange: (names: string[]) => void;
  /** What more can be said of one that is chosen. */
  readonly details?: (name: string) => ReactNode;
}

/** Which fields are shown, and in which order. */
export function ColumnList({ offered, chosen, onChange, details }: Props) {
  const [open, setOpen] = useState<string | null>(null);
  const others = offered.filter(({ name }) => !chosen.includes(name));
  const label = (name: string): string => offered.find((each) => each.name === name)?.label ?? name;
  const move = (index: number, by: number): void => {
    const next = [...chosen];
    const [moved] = next.splice(index, 1);
    if (moved !== undefined) next.splice(index + by, 0, moved);
    onChange(next);
  };
  return (
    <ul className="flex flex-col">
      {chosen.map((name, index) => (
        <li key={name} className="border-b border-hair">
          <div className="flex items-center">
            <span className="min-w-0 flex-1">
              <CheckField
                label={label(name)}
                checked
                onChange={() => onChange(chosen.filter((each) => each !== name))}
              />
            </span>
            {details && (
              <IconButton
                name={`How ${label(name)} is shown`}
                aria-expanded={open === name}
                className={open === name ? 'text-accent' : ''}
                onClick={() => setOpen(open === name ? null : name)}
              >
                <SlidersHorizontal className="size-4" />
              </IconButton>
            )}
            <IconButton
              name={`${label(name)} earlier`}
              disabled={index === 0}
              onClick={() => move(index, -1)}
            >
              <ArrowUp className="size-4" />
            </IconButton>
            <IconButton
              name={`${label(name)} later`}
              disabled={index === chosen.length - 1}
              onClick={() => move(index, 1)}
            >
              <ArrowDown className="size-4" />
            </IconButton>
          </div>
          {open === name && details?.(name)}
        </li>
      ))}
      {others.map((field) => (
        <li key={field.name}>
          <CheckField
            label={<span className="text-muted">{field.label}</span>}
            checked={false}
            onChange={() => onChange([...chosen, field.name])}
          />
        </li>
      ))}
    </ul>
  );
}
