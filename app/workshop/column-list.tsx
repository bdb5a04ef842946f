import { ArrowDown, ArrowUp } from 'lucide-react';
import type { DataSet } from '#core/dataset/schema.ts';
import { labelOf } from '#core/field/value.ts';
import { IconButton } from '../ui/button.tsx';
import { CheckField } from '../ui/field.tsx';

/** Which fields are shown, and in which order. */
export function ColumnList({
  dataSet,
  chosen,
  onChange,
}: {
  dataSet: DataSet;
  chosen: readonly string[];
  onChange: (fields: string[]) => void;
}) {
  const others = dataSet.fields.filter(({ name, type }) => !chosen.includes(name) && type !== 'nested');
  const label = (name: string): string =>
    labelOf(dataSet.fields.find((field) => field.name === name) ?? { name });
  const move = (index: number, by: number): void => {
    const next = [...chosen];
    const [moved] = next.splice(index, 1);
    if (moved !== undefined) next.splice(index + by, 0, moved);
    onChange(next);
  };
  return (
    <ul className="flex flex-col">
      {chosen.map((name, index) => (
        <li key={name} className="flex items-center border-b border-hair">
          <span className="flex-1">
            <CheckField
              label={label(name)}
              checked
              onChange={() => onChange(chosen.filter((each) => each !== name))}
            />
          </span>
          <IconButton name={`${label(name)} earlier`} disabled={index === 0} onClick={() => move(index, -1)}>
            <ArrowUp className="size-4" />
          </IconButton>
          <IconButton
            name={`${label(name)} later`}
            disabled={index === chosen.length - 1}
            onClick={() => move(index, 1)}
          >
            <ArrowDown className="size-4" />
          </IconButton>
        </li>
      ))}
      {others.map((field) => (
        <li key={field.name}>
          <CheckField
            label={<span className="text-muted">{label(field.name)}</span>}
            checked={false}
            onChange={() => onChange([...chosen, field.name])}
          />
        </li>
      ))}
    </ul>
  );
}
