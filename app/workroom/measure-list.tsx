import Pencil from 'lucide-react/icons/pencil';
import X from 'lucide-react/icons/x';
import { useState } from 'react';
import type { Measure } from '#core/ask/measure/schema.ts';
import type { DataSet } from '#core/dataset/schema.ts';
import { formatCell } from '#core/value/format/format.ts';
import { bandsWords } from '#core/words/bands.ts';
import { listWords } from '#core/words/condition.ts';
import { measureWords } from '#core/words/measure.ts';
import { Button, IconButton } from '../ui/button.tsx';
import { Section } from '../ui/page.tsx';
import { MeasureForm } from './measure-form.tsx';

export type MeasureUses = Readonly<Record<string, readonly string[] | undefined>>;

const mostNamed = 6;

/** The panes that need a measure, and what becomes of them. */
function UsedBy({ uses = [], words }: { uses: readonly string[] | undefined; words: string }) {
  if (uses.length === 0) return null;
  return (
    <p className="my-1 text-small text-slate">
      {listWords(uses, 'and', mostNamed)}{' '}
      {uses.length === 1 ? words.replace(/^have/, 'has').replace(/^change/, 'changes') : words}.
    </p>
  );
}

/** Named aggregates, defined once; every pane picks from them. */
export function MeasureList({
  definition,
  uses,
  onChange,
}: {
  definition: DataSet;
  /** The panes that show each measure, in words, by its name. */
  uses: MeasureUses;
  onChange: (next: DataSet) => void;
}) {
  /** The name of the measure being edited; '' is a new one. */
  const [editing, setEditing] = useState<string | null>(null);
  /** The name of a measure in use that is about to be removed. */
  const [leaving, setLeaving] = useState<string | null>(null);
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
  const remove = (gone: string): void => {
    setLeaving(null);
    onChange({ ...definition, measures: measures.filter(({ name }) => name !== gone) });
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
                {measure.bands &&
                  ` · ${bandsWords(measure.bands, (text) => formatCell(text, { type: 'decimal', format: measure.format }, 'UTC'))}`}
              </span>
              <IconButton
                name={`Change ${measure.label}`}
                aria-expanded={editing === measure.name}
                onClick={() => setEditing(editing === measure.name ? null : measure.name)}
              >
                <Pencil className="size-4" />
              </IconButton>
              <IconButton
                name={`Remove ${measure.label}`}
                disabled={measures.length === 1}
                onClick={() => (uses[measure.name] ? setLeaving(measure.name) : remove(measure.name))}
              >
                <X className="size-4" />
              </IconButton>
            </div>
            {leaving === measure.name && (
              <div role="alert" className="my-2 border-l-3 border-slipping pl-3 text-small">
                <UsedBy uses={uses[measure.name]} words="have no number without it" />
                <div className="mt-1.5 flex gap-2">
                  <Button onClick={() => remove(measure.name)}>Remove anyway</Button>
                  <Button look="quiet" onClick={() => setLeaving(null)}>
                    Keep it
                  </Button>
                </div>
              </div>
            )}
            {editing === measure.name && (
              <>
                <UsedBy uses={uses[measure.name]} words="change with it" />
                <MeasureForm definition={definition} measure={measure} onDone={finish} />
              </>
            )}
          </li>
        ))}
      </ul>
      {editing === '' && <MeasureForm definition={definition} onDone={finish} />}
    </Section>
  );
}
