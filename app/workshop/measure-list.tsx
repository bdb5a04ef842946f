import { Pencil, X } from 'lucide-react';
import { useState } from 'react';
import type { DataSet } from '#core/dataset/schema.ts';
import type { Measure } from '#core/measure/schema.ts';
import { measureWords } from '#core/words/measure.ts';
import { Button, IconButton } from '../ui/button.tsx';
import { Section } from '../ui/page.tsx';
import { MeasureForm } from './measure-form.tsx';

/** Named aggregates, defined once; every pane picks from them. */
export function MeasureList({
  definition,
  onChange,
}: {
  definition: DataSet;
  onChange: (next: DataSet) => void;
}) {
  /** The name of the measure being edited; '' is a new one. */
  const [editing, setEditing] = useState<string | null>(null);
  const { measures } = definition;
  const finish = (measure: Measure | null): void => {
    setEditing(null);
    if (!measure) return;
    const isNew = !measures.some(({ name }) => name === measure.name);
    onChange({
      ...definition,
      measures: isNew
        ? [...measures, measure]
        : measures.map((each) => (each.name === measure.name ? measure : each)),
    });
  };
  return (
    <Section
      title="Measures"
      note="Numbers with a name. Defined once here, used by every pane."
      action={<Button onClick={() => setEditing(editing === '' ? null : '')}>Add a measure</Button>}
    >
      <ul>
        {measures.map((measure) => (
          <li key={measure.name} className="border-b border-hair py-1">
            <div className="flex items-baseline gap-3">
              <span className="font-strong">{measure.label}</span>
              <span className="min-w-0 flex-1 text-small text-muted">
                {measureWords(measure, definition)}
              </span>
              <IconButton
                name={`Change ${measure.label}`}
                aria-expanded={editing === measure.name}
                onClick={() => setEditing(editing === measure.name ? null : measure.name)}
              >
                <Pencil className="size-4" />
              </IconButton>
              <IconButton
                name={`Take ${measure.label} away`}
                disabled={measures.length === 1}
                onClick={() =>
                  onChange({ ...definition, measures: measures.filter(({ name }) => name !== measure.name) })
                }
              >
                <X className="size-4" />
              </IconButton>
            </div>
            {editing === measure.name && (
              <MeasureForm definition={definition} measure={measure} onDone={finish} />
            )}
          </li>
        ))}
      </ul>
      {editing === '' && <MeasureForm definition={definition} onDone={finish} />}
    </Section>
  );
}
