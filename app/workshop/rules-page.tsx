import { useState } from 'react';
import { expectationWords } from '#core/check/check.ts';
import type { Check, Cut, DataSet } from '#core/dataset/schema.ts';
import { isTemporal, labelOf } from '#core/field/value.ts';
import { formatMoment, formatNumber } from '#core/format/format.ts';
import { conditionWords } from '#core/words/condition.ts';
import type { StoredCheck } from '#server/store/checks.ts';
import type { StoredDataSet } from '#server/store/data-sets.ts';
import { Button } from '../ui/button.tsx';
import { CellView } from '../ui/cell.tsx';
import { CheckField, SelectField, TextField } from '../ui/field.tsx';
import { ProblemMessage } from '../ui/message.tsx';
import { Section } from '../ui/page.tsx';
import { StateMark } from '../ui/state-mark.tsx';
import { ConditionEditor } from './condition-editor.tsx';
import { SaveProblems } from './save-bar.tsx';
import { FieldSelect, FieldsPick } from './steps/parts.tsx';
import { useShape } from './steps/use-shape.ts';
import { useSave } from './use-save.ts';

interface Props {
  readonly stored: StoredDataSet;
  readonly results: readonly StoredCheck[];
  readonly zone: string;
}

/** Named subsets with their live counts, and what is expected of the records. Each change is saved as it is made. */
export function RulesPage({ stored, results, zone }: Props) {
  const { id, name, definition } = stored;
  const saving = useSave(`/workshop/data-sets/${id}`, stored.revision);
  const save = (next: Partial<DataSet>): void =>
    saving.save({ id, name, definition: { ...definition, ...next } });
  return (
    <>
      <SaveProblems saving={saving} zone={zone} />
      <div className="grid gap-x-12 gap-y-10 lg:grid-cols-2">
        <Cuts id={id} definition={definition} zone={zone} onChange={(cuts) => save({ cuts })} />
        <Checks
          id={id}
          definition={definition}
          results={results}
          zone={zone}
          busy={saving.busy}
          onChange={(checks) => save({ checks })}
        />
      </div>
    </>
  );
}

/** A name for the definition, of what it is called to readers. */
function nameOf(label: string, taken: readonly string[]): string {
  const stem =
    label
      .trim()
      .toLowerCase()
      .replace(/[^\p{L}\p{N}]+/gu, '_')
      .replace(/^_|_$/g, '')
      .slice(0, 60) || 'cut';
  let name = stem;
  for (let n = 2; taken.includes(name); n += 1) name = `${stem}_${n}`;
  return name;
}

function Cuts({
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

const tones = { met: 'settled', broken: 'broken', untried: 'waiting' } as const;
const stateWords = { met: 'Met', broken: 'Not met', untried: 'Not tried' } as const;

function Checks({
  id,
  definition,
  results,
  zone,
  busy,
  onChange,
}: {
  id: string;
  definition: DataSet;
  results: readonly StoredCheck[];
  zone: string;
  busy: boolean;
  onChange: (checks: Check[]) => void;
}) {
  const checks = definition.checks ?? [];
  const [open, setOpen] = useState<string | null>(null);
  const [failing, setFailing] = useState<string | null>(null);
  return (
    <Section
      title="Checks"
      note="What is expected of the records, tried with each refresh."
      action={
        <div className="flex gap-2">
          {checks.length > 0 && (
            <Button disabled={busy} onClick={() => onChange([...checks])}>
              {busy ? 'Trying …' : 'Try them now'}
            </Button>
          )}
          <Button onClick={() => setOpen('')}>Add a check</Button>
        </div>
      }
    >
      {open === '' && (
        <CheckForm
          definition={definition}
          check={null}
          onDone={(check) => {
            setOpen(null);
            if (check) onChange([...checks.filter(({ name }) => name !== check.name), check]);
          }}
        />
      )}
      <ul>
        {checks.map((check) => {
          const result = results.find(({ name }) => name === check.name);
          const state = result?.state ?? 'untried';
          return (
            <li key={check.name} className="border-b border-hair py-2">
              <div className="grid grid-cols-[1fr_auto] items-baseline gap-x-4">
                <span className="font-strong">{check.name}</span>
                <StateMark tone={tones[state]} word={stateWords[state]} />
                <span className="text-small text-muted">
                  {expectationWords(check.expects, definition)}
                  {check.holds && '; else new records are held back'}
                </span>
                <span className="flex gap-1">
                  <Button
                    look="quiet"
                    aria-label={`Take ${check.name} away`}
                    onClick={() => onChange(checks.filter(({ name }) => name !== check.name))}
                  >
                    Take away
                  </Button>
                </span>
                {result && (
                  <span className="figures text-small text-slate">
                    {result.found} · {formatMoment(result.at.toISOString(), zone)}
                  </span>
                )}
                {result && result.failing !== '0' && (
                  <Button
                    look="quiet"
                    aria-expanded={failing === check.name}
                    onClick={() => setFailing(failing === check.name ? null : check.name)}
                  >
                    Show them
                  </Button>
                )}
              </div>
              {failing === check.name && (
                <Failing id={id} definition={definition} check={check} zone={zone} />
              )}
            </li>
          );
        })}
      </ul>
      {checks.length === 0 && open === null && <p className="text-muted">None yet.</p>}
    </Section>
  );
}

/** The first records that are not as expected. */
function Failing({
  id,
  definition,
  check,
  zone,
}: {
  id: string;
  definition: DataSet;
  check: Check;
  zone: string;
}) {
  const { found, problem } = useShape(id, definition, {
    kind: 'failing',
    steps: definition.steps?.length ?? 0,
    check,
  });
  if (problem) return <ProblemMessage problem={problem} />;
  if (!found) return <p className="text-small text-muted">Finding them …</p>;
  const fields = found.fields
    .slice(0, 8)
    .map(
      (name) => definition.fields.find((field) => field.name === name) ?? { name, type: 'integer' as const },
    );
  return (
    <section
      className="mt-2 max-h-64 overflow-auto"
      // biome-ignore lint/a11y/noNoninteractiveTabindex: a region that scrolls must be reachable by keyboard
      tabIndex={0}
      aria-label={`Records that fail ${check.name}`}
    >
      <table className="figures w-full border-collapse text-left text-small">
        <thead>
          <tr>
            {fields.map((field) => (
              <th key={field.name} scope="col" className="border-b border-line py-1 pr-3">
                {labelOf(field)}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {found.records.map((record, index) => (
            // biome-ignore lint/suspicious/noArrayIndexKey: these records may have no key, which is what is wrong
            <tr key={index} className="border-b border-hair">
              {fields.map((field, at) => (
                <td key={field.name} className="max-w-48 truncate py-0.5 pr-3">
                  <CellView cell={record[at]} field={{ ...field, label: labelOf(field) }} zone={zone} />
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}

const kinds: readonly [Check['expects']['kind'], string][] = [
  ['unique', 'no two are alike in'],
  ['filled', 'none is blank in'],
  ['all', 'every one meets a condition'],
  ['count', 'how many there are'],
  ['fresh', 'the latest is not too old'],
];

/** What is expected while only its kind is chosen. */
function started(kind: Check['expects']['kind'], field: string, moment: string): Check['expects'] {
  switch (kind) {
    case 'unique':
      return { kind, fields: [field] };
    case 'filled':
      return { kind, field };
    case 'all':
      return { kind, where: { all: [] } };
    case 'count':
      return { kind, least: 1 };
    case 'fresh':
      return { kind, field: moment, hours: 24 };
  }
}

function CheckForm({
  definition,
  check,
  onDone,
}: {
  definition: DataSet;
  check: Check | null;
  onDone: (check: Check | null) => void;
}) {
  const { fields, key } = definition;
  const plain = fields.filter(({ type }) => type !== 'nested');
  const first = key ?? plain[0]?.name ?? '';
  const [name, setName] = useState(check?.name ?? '');
  const [expects, setExpects] = useState<Check['expects']>(
    check?.expects ?? { kind: 'unique', fields: [first] },
  );
  const [holds, setHolds] = useState(check?.holds ?? false);
  const moments = fields.filter(({ type }) => isTemporal(type));
  const choose = (kind: Check['expects']['kind']): void =>
    setExpects(started(kind, first, moments[0]?.name ?? ''));
  const words = expectationWords(expects, definition);
  const isReady =
    expects.kind === 'unique'
      ? expects.fields.length > 0
      : expects.kind === 'fresh'
        ? expects.field !== ''
        : true;
  return (
    <div className="my-2 flex flex-col gap-3 rounded-[4px] border border-line bg-sheet p-3">
      <SelectField
        label="Expect that"
        value={expects.kind}
        onChange={({ target }) => choose(target.value as 'unique')}
      >
        {kinds
          .filter(([kind]) => kind !== 'fresh' || moments.length > 0)
          .map(([kind, said]) => (
            <option key={kind} value={kind}>
              {said}
            </option>
          ))}
      </SelectField>
      {expects.kind === 'unique' && (
        <FieldsPick
          label="Fields"
          fields={plain}
          value={expects.fields}
          onChange={(next) => setExpects({ ...expects, fields: next })}
        />
      )}
      {expects.kind === 'filled' && (
        <FieldSelect
          label="Field"
          fields={fields}
          value={expects.field}
          onChange={(field) => setExpects({ ...expects, field })}
        />
      )}
      {expects.kind === 'all' && (
        <ConditionEditor
          label="Condition"
          fields={fields}
          value={expects.where}
          onChange={(where) => setExpects({ kind: 'all', where: where ?? { all: [] } })}
        />
      )}
      {expects.kind === 'count' && (
        <div className="grid grid-cols-2 gap-3">
          {(['least', 'most'] as const).map((end) => (
            <TextField
              key={end}
              label={end === 'least' ? 'At least' : 'At most'}
              type="number"
              min={0}
              value={expects[end] ?? ''}
              onChange={({ target }) => {
                const { [end]: _, ...rest } = expects;
                setExpects(
                  target.valueAsNumber >= 0 ? { ...rest, [end]: Math.trunc(target.valueAsNumber) } : rest,
                );
              }}
            />
          ))}
        </div>
      )}
      {expects.kind === 'fresh' && (
        <div className="grid grid-cols-2 gap-3">
          <FieldSelect
            label="The latest"
            fields={moments}
            value={expects.field}
            onChange={(field) => setExpects({ ...expects, field })}
          />
          <TextField
            label="Is no older than, in hours"
            type="number"
            min={1}
            value={expects.hours}
            onChange={({ target }) =>
              target.valueAsNumber >= 1 && setExpects({ ...expects, hours: Math.trunc(target.valueAsNumber) })
            }
          />
        </div>
      )}
      <TextField
        label="Called"
        placeholder={words}
        value={name}
        maxLength={200}
        onChange={({ target }) => setName(target.value)}
      />
      <CheckField
        label="Hold new records back when it is not met"
        checked={holds}
        onChange={({ target }) => setHolds(target.checked)}
      />
      <div className="flex gap-2">
        <Button
          look="main"
          disabled={!isReady}
          onClick={() => onDone({ name: (name.trim() || words).slice(0, 200), expects, holds })}
        >
          Save the check
        </Button>
        <Button look="quiet" onClick={() => onDone(null)}>
          Leave it
        </Button>
      </div>
    </div>
  );
}
