import { CheckField, TextField } from '../ui/field.tsx';

interface Top {
  readonly count: number;
  readonly rest: boolean;
}

/** How many of the largest groups are shown, and whether the rest stands beside them. */
export function TopSlot({
  top,
  most,
  canShowAll = true,
  onChange,
}: {
  top: Top | undefined;
  /** The most that can stand at the top. */
  most: number;
  canShowAll?: boolean;
  onChange: (top: Top | undefined) => void;
}) {
  return (
    <div className="flex flex-col gap-3">
      {canShowAll && (
        <CheckField
          label="Show them all"
          checked={!top}
          onChange={() => onChange(top ? undefined : { count: 10, rest: true })}
        />
      )}
      {top && (
        <>
          <TextField
            label="How many at the top"
            type="number"
            min={1}
            max={most}
            value={top.count}
            onChange={(event) =>
              onChange({
                ...top,
                count: Math.min(most, Math.max(1, Math.trunc(Number(event.target.value)) || 1)),
              })
            }
          />
          <CheckField
            label="And the rest together"
            checked={top.rest}
            onChange={() => onChange({ ...top, rest: !top.rest })}
          />
        </>
      )}
    </div>
  );
}
