import { X } from 'lucide-react';
import { useState } from 'react';
import type { Condition } from '#core/condition/schema.ts';
import type { DataSet } from '#core/dataset/schema.ts';
import { isNumeric, labelOf } from '#core/field/value.ts';
import type { Calculation, Measure } from '#core/measure/schema.ts';
import { conditionWords } from '#core/words/condition.ts';
import { Button, IconButton } from '../ui/button.tsx';
import { SelectField, TextField } from '../ui/field.tsx';
import { Section } from '../ui/page.tsx';
import { ConditionEditor } from './condition-editor.tsx';

const kinds = {
  count: 'how many',
  distinct: 'how many different',
  sum: 'sum of',
  average: 'average of',
  median: 'median of',
  least: 'least',
  greatest: 'greatest',
  share: 'share where',
} as const;
type Kind = keyof typeof kinds;
const clock = { now: new Date(0), zone: 'UTC' };

/** What a measure computes, in words. */
export function measureWords({ calculation, where }: Measure, { fields }: DataSet): string {
  const label = (name: string): string =>
    labelOf(fields.find((field) => field.name === name) ?? { name }).toLowerCase();
  const said = ((): string => {
    switch (calculation.kind) {
      case 'count':
        return 'how many';
      case 'share':
        return `the share where ${conditionWords(calculation.where, fields, clock)}`;
      case 'ratio':
        return 'a ratio of two';
      case 'percentile':
        return `percentile ${calculation.at} of ${label(calculation.field)}`;
      default:
        return `${kinds[calculation.kind]} ${label(calculation.field)}`;
    }
  })();
  return where ? `${said}, keeping ${conditionWords(where, fields, clock)}` : said;
}

/** Named aggregates, defined once; every pane picks from them. */
export function MeasureList({
  definition,
  onChange,
}: {
  definition: DataSet;
  onChange: (next: DataSet) => void;
}) {
  const [adding, setAdding] = useState(false);
  return (
    <Section
      title="Measures"
      note="Numbers with a name. Defined once here, used by every pane."
      action={<Button onClick={() => setAdding(!adding)}>Add a measure</Button>}
    >
      <ul>
        {definition.measures.map((measure) => (
          <li key={measure.name} className="flex items-baseline gap-3 border-b border-hair py-1">
            <span className="font-strong">{measure.label}</span>
            <span className="min-w-0 flex-1 text-small text-muted">{measureWords(measure, definition)}</span>
            <IconButton
              name={`Take ${measure.label} away`}
              disabled={definition.measures.length === 1}
              onClick={() =>
                onChange({
                  ...definition,
                  measures: definition.measures.filter(({ name }) => name !== measure.name),
                })
              }
            >
              <X className="size-4" />
            </IconButton>
          </li>
        ))}
      </ul>
      {adding && (
        <MeasureForm
          definition={definition}
          onAdd={(measure) => {
            onChange({ ...definition, measures: [...definition.measures, measure] });
            setAdding(false);
          }}
        />
      )}
    </Section>
  );
}

export function MeasureForm({
  definition,
  onAdd,
}: {
  definition: DataSet;
  onAdd: (measure: Measure) => void;
}) {
  const [kind, setKind] = useState<Kind>('count');
  const [field, setField] = useState('');
  const [label, setLabel] = useState('');
  const [unit, setUnit] = useState('');
  const [where, setWhere] = useState<Condition | undefined>();
  const numeric = kind === 'sum' || kind === 'average' || kind === 'median';
  const offered = definition.fields.filter(({ type }) => type !== 'nested' && (!numeric || isNumeric(type)));
  const chosen = offered.find(({ name }) => name === field) ?? offered[0];
  const needsField = kind !== 'count' && kind !== 'share';
  const usual = `${kinds[kind]} ${needsField && chosen ? labelOf(chosen).toLowerCase() : definition.noun.many}`;
  const calculation: Calculation | null =
    kind === 'count'
      ? { kind }
      : kind === 'share'
        ? where
          ? { kind, where }
          : null
        : chosen
          ? { kind, field: chosen.name }
          : null;
  const add = (): void => {
    if (!calculation) return;
    let name =
      (label || usual)
        .toLowerCase()
        .replace(/[^a-z0-9]+/g, '_')
        .slice(0, 60) || 'measure';
    while (definition.measures.some((each) => each.name === name)) name += '_2';
    onAdd({
      name,
      label: label || usual,
      calculation,
      ...(where && kind !== 'share' ? { where } : {}),
      ...(unit ? { unit } : {}),
      ...(kind === 'share' ? { format: { kind: 'percent' as const, decimals: 1 } } : {}),
    });
  };
  return (
    <div className="mt-3 flex flex-col gap-3 border-l-3 border-accent pl-4">
      <div className="grid grid-cols-2 gap-3">
        <SelectField label="Compute" value={kind} onChange={(event) => setKind(event.target.value as Kind)}>
          {Object.entries(kinds).map(([value, words]) => (
            <option key={value} value={value}>
              {words}
            </option>
          ))}
        </SelectField>
        {needsField && (
          <SelectField
            label="Of"
            value={chosen?.name ?? ''}
            onChange={(event) => setField(event.target.value)}
          >
            {offered.map((each) => (
              <option key={each.name} value={each.name}>
                {labelOf(each)}
              </option>
            ))}
          </SelectField>
        )}
      </div>
      <ConditionEditor
        label={kind === 'share' ? 'That are' : 'Keeping'}
        fields={definition.fields}
        value={where}
        onChange={setWhere}
      />
      <div className="grid grid-cols-2 gap-3">
        <TextField
          label="Called"
          placeholder={usual}
          value={label}
          onChange={(event) => setLabel(event.target.value)}
        />
        <TextField label="Unit" value={unit} onChange={(event) => setUnit(event.target.value)} />
      </div>
      <Button look="main" className="self-start" disabled={!calculation} onClick={add}>
        Add it
      </Button>
    </div>
  );
}
