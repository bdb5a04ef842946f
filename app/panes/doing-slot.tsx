import type { Pane } from '#core/dashboard/pane/schema.ts';
import type { DataSet } from '#core/dataset/schema.ts';
import { labelOf } from '#core/value/field/value.ts';
import { CheckField } from '../ui/field.tsx';

interface Doing {
  readonly dataSet: string;
  readonly actions?: string[] | undefined;
  readonly inPlace?: string[] | undefined;
}

const toggled = (names: readonly string[] | undefined, name: string): string[] =>
  names?.includes(name) ? names.filter((each) => each !== name) : [...(names ?? []), name];

/** What readers may do to the records of a pane, of what their data set lets them. */
export function DoingSlot<P extends Pane & Doing>({
  pane,
  dataSets,
  onChange,
}: {
  pane: P;
  dataSets: ReadonlyMap<string, DataSet>;
  onChange: (pane: P) => void;
}) {
  const dataSet = dataSets.get(pane.dataSet);
  const { actions = [], inPlace = [] } = dataSet?.changes ?? {};
  if (!dataSet || actions.length + inPlace.length === 0) return null;
  const words = (name: string): string =>
    labelOf(dataSet.fields.find((each) => each.name === name) ?? { name });
  return (
    <fieldset className="flex flex-col gap-1">
      <legend className="mb-1 text-small font-strong text-slate">
        What can be done to its {dataSet.noun.many}
      </legend>
      {actions.map(({ name, label }) => (
        <CheckField
          key={name}
          label={label}
          checked={pane.actions?.includes(name) ?? false}
          onChange={() => onChange({ ...pane, actions: toggled(pane.actions, name) })}
        />
      ))}
      {inPlace.map((name) => (
        <CheckField
          key={name}
          label={`change ${words(name).toLowerCase()} in its place`}
          checked={pane.inPlace?.includes(name) ?? false}
          onChange={() => onChange({ ...pane, inPlace: toggled(pane.inPlace, name) })}
        />
      ))}
    </fieldset>
  );
}
