import { useState } from 'react';
import type { DataSet, Subset } from '#core/dataset/schema.ts';
import { freeName } from '#core/value/field/free-name.ts';
import { counted } from '#core/value/format/counted.ts';
import { conditionWords } from '#core/words/condition.ts';
import { Button } from '../ui/button.tsx';
import { ConfirmRemove } from '../ui/confirm-remove.tsx';
import { TextField } from '../ui/field.tsx';
import { Section } from '../ui/page.tsx';
import { ConditionEditor } from './condition-editor.tsx';
import { useShape } from './steps/use-shape.ts';

/** A name for the definition, of what it is called to readers. */
function nameOf(label: string, taken: readonly string[]): string {
  const stem =
    label
      .trim()
      .toLowerCase()
      .replace(/[^\p{L}\p{N}]+/gu, '_')
      .replace(/^_|_$/g, '')
      .slice(0, 60) || 'subset';
  return freeName(stem, (name) => taken.includes(name));
}

/** The subsets of a data set, each with how many records it has now. */
export function Subsets({
  id,
  definition,
  zone,
  onChange,
}: {
  id: string;
  definition: DataSet;
  zone: string;
  onChange: (subsets: Subset[]) => void;
}) {
  const subsets = definition.subsets ?? [];
  const [open, setOpen] = useState<string | null>(null);
  const done = (subset: Subset | null): void => {
    setOpen(null);
    if (!subset) return;
    onChange(
      subsets.some(({ name }) => name === subset.name)
        ? subsets.map((each) => (each.name === subset.name ? subset : each))
        : [...subsets, subset],
    );
  };
  return (
    <Section
      title="Subsets"
      note={`Named ${definition.noun.many}, to be chosen wherever the data set is.`}
      action={<Button onClick={() => setOpen('')}>Make a subset</Button>}
    >
      {open === '' && <SubsetForm id={id} definition={definition} subset={null} onDone={done} />}
      <ul>
        {subsets.map((subset) => (
          <li key={subset.name} className="border-b border-hair py-2">
            {open === subset.name ? (
              <SubsetForm id={id} definition={definition} subset={subset} onDone={done} />
            ) : (
              <div className="grid grid-cols-[1fr_auto] items-baseline gap-x-4">
                <span className="font-strong">{subset.label}</span>
                <SubsetCount id={id} definition={definition} where={subset.where} />
                <span className="text-small text-muted">
                  where {conditionWords(subset.where, definition.fields, zone)}
                </span>
                <span className="flex gap-1">
                  <Button
                    look="quiet"
                    onClick={() => setOpen(subset.name)}
                    aria-label={`Change ${subset.label}`}
                  >
                    Change
                  </Button>
                  <ConfirmRemove
                    what={`“${subset.label}”`}
                    goesWith={['Data sets that are made of it have no records without it.']}
                    ending="It stays until you save."
                    onRemove={() => onChange(subsets.filter(({ name }) => name !== subset.name))}
                    trigger={
                      <Button look="quiet" aria-label={`Remove ${subset.label}`}>
                        Remove
                      </Button>
                    }
                  />
                </span>
              </div>
            )}
          </li>
        ))}
      </ul>
      {subsets.length === 0 && open === null && <p className="text-muted">None yet.</p>}
    </Section>
  );
}

function SubsetCount({ id, definition, where }: { id: string; definition: DataSet; where: Subset['where'] }) {
  const { found, busy, problem } = useShape(id, definition, {
    kind: 'count',
    steps: definition.steps?.length ?? 0,
    where,
  });
  if (problem) return <span className="text-small text-broken">{problem.why}</span>;
  return (
    <span className="figures text-small whitespace-nowrap" aria-live="polite">
      {found === undefined || busy ? '…' : counted(found, definition.noun.one, definition.noun.many)}
    </span>
  );
}

function SubsetForm({
  id,
  definition,
  subset,
  onDone,
}: {
  id: string;
  definition: DataSet;
  subset: Subset | null;
  onDone: (subset: Subset | null) => void;
}) {
  const [label, setLabel] = useState(subset?.label ?? '');
  const [where, setWhere] = useState<Subset['where'] | undefined>(subset?.where);
  const taken = (definition.subsets ?? []).map(({ name }) => name);
  return (
    <div className="my-2 flex flex-col gap-3 rounded-[4px] border border-line bg-sheet p-3">
      <TextField
        label="Called"
        placeholder={`open ${definition.noun.many}`}
        value={label}
        maxLength={500}
        onChange={({ target }) => setLabel(target.value)}
      />
      <ConditionEditor label="Where" fields={definition.fields} value={where} onChange={setWhere} />
      {where && (
        <p className="text-small">
          <SubsetCount id={id} definition={definition} where={where} />
        </p>
      )}
      <div className="flex gap-2">
        <Button
          look="main"
          disabled={label.trim() === '' || !where}
          onClick={() =>
            where && onDone({ name: subset?.name ?? nameOf(label, taken), label: label.trim(), where })
          }
        >
          Save the subset
        </Button>
        <Button look="quiet" onClick={() => onDone(null)}>
          Cancel
        </Button>
      </div>
    </div>
  );
}
