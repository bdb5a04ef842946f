import { useState } from 'react';
import type { Cut, DataSet } from '#core/dataset/schema.ts';
import { freeName } from '#core/field/free-name.ts';
import { formatNumber } from '#core/format/format.ts';
import { conditionWords } from '#core/words/condition.ts';
import { Button } from '../ui/button.tsx';
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
      .slice(0, 60) || 'cut';
  return freeName(stem, (name) => taken.includes(name));
}

/** The cuts of a data set, each with how many records it has now. */
export function Cuts({
  id,
  definition,
  zone,
  onChange,
}: {
  id: string;
  definition: DataSet;
  zone: string;
  onChange: (cuts: Cut[]) => void;
}) {
  const cuts = definition.cuts ?? [];
  const [open, setOpen] = useState<string | null>(null);
  const done = (cut: Cut | null): void => {
    setOpen(null);
    if (!cut) return;
    onChange(
      cuts.some(({ name }) => name === cut.name)
        ? cuts.map((each) => (each.name === cut.name ? cut : each))
        : [...cuts, cut],
    );
  };
  return (
    <Section
      title="Cuts"
      note={`Named ${definition.noun.many}, to be chosen wherever the data set is.`}
      action={<Button onClick={() => setOpen('')}>Make a cut</Button>}
    >
      {open === '' && <CutForm id={id} definition={definition} cut={null} onDone={done} />}
      <ul>
        {cuts.map((cut) => (
          <li key={cut.name} className="border-b border-hair py-2">
            {open === cut.name ? (
              <CutForm id={id} definition={definition} cut={cut} onDone={done} />
            ) : (
              <div className="grid grid-cols-[1fr_auto] items-baseline gap-x-4">
                <span className="font-strong">{cut.label}</span>
                <CutCount id={id} definition={definition} where={cut.where} />
                <span className="text-small text-muted">
                  where {conditionWords(cut.where, definition.fields, { now: new Date(0), zone })}
                </span>
                <span className="flex gap-1">
                  <Button look="quiet" onClick={() => setOpen(cut.name)} aria-label={`Change ${cut.label}`}>
                    Change
                  </Button>
                  <Button
                    look="quiet"
                    aria-label={`Take ${cut.label} away`}
                    onClick={() => onChange(cuts.filter(({ name }) => name !== cut.name))}
                  >
                    Take away
                  </Button>
                </span>
              </div>
            )}
          </li>
        ))}
      </ul>
      {cuts.length === 0 && open === null && <p className="text-muted">None yet.</p>}
    </Section>
  );
}

function CutCount({ id, definition, where }: { id: string; definition: DataSet; where: Cut['where'] }) {
  const { found, busy, problem } = useShape(id, definition, {
    kind: 'count',
    steps: definition.steps?.length ?? 0,
    where,
  });
  if (problem) return <span className="text-small text-broken">{problem.why}</span>;
  return (
    <span className="figures text-small whitespace-nowrap" aria-live="polite">
      {found === undefined || busy ? '…' : `${formatNumber(found, 0)} ${definition.noun.many}`}
    </span>
  );
}

function CutForm({
  id,
  definition,
  cut,
  onDone,
}: {
  id: string;
  definition: DataSet;
  cut: Cut | null;
  onDone: (cut: Cut | null) => void;
}) {
  const [label, setLabel] = useState(cut?.label ?? '');
  const [where, setWhere] = useState<Cut['where'] | undefined>(cut?.where);
  const taken = (definition.cuts ?? []).map(({ name }) => name);
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
          <CutCount id={id} definition={definition} where={where} />
        </p>
      )}
      <div className="flex gap-2">
        <Button
          look="main"
          disabled={label.trim() === '' || !where}
          onClick={() =>
            where && onDone({ name: cut?.name ?? nameOf(label, taken), label: label.trim(), where })
          }
        >
          Save the cut
        </Button>
        <Button look="quiet" onClick={() => onDone(null)}>
          Leave it
        </Button>
      </div>
    </div>
  );
}
