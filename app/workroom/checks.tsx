import { useState } from 'react';
import type { Check, DataSet } from '#core/dataset/schema.ts';
import { isTemporal, labelOf } from '#core/value/field/value.ts';
import { formatMoment } from '#core/value/format/format.ts';
import { expectationWords } from '#core/words/check.ts';
import type { StoredCheck } from '#server/store/checks.ts';
import { Button } from '../ui/button.tsx';
import { ConfirmRemove } from '../ui/confirm-remove.tsx';
import { CheckField, TextField } from '../ui/field.tsx';
import { ProblemMessage } from '../ui/message.tsx';
import { Section } from '../ui/page.tsx';
import { RecordTable } from '../ui/record-table.tsx';
import { SelectField } from '../ui/select-field.tsx';
import { StateMark } from '../ui/state-mark.tsx';
import { ConditionEditor } from './condition-editor.tsx';
import { FieldSelect, FieldsPick, plainOf } from './steps/parts.tsx';
import { useShape } from './steps/use-shape.ts';

const tones = { met: 'settled', broken: 'broken', untried: 'waiting' } as const;
const stateWords = { met: 'Met', broken: 'Not met', untried: 'Not tried' } as const;

/** What is expected of the records of a data set, and what came of it the last time. */
export function Checks({
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
                  <ConfirmRemove
                    what={`“${check.name}”`}
                    goesWith={check.holds ? ['New records are not held back by it any more.'] : []}
                    ending="It stays until you save."
                    onRemove={() => onChange(checks.filter(({ name }) => name !== check.name))}
                    trigger={
                      <Button look="quiet" aria-label={`Remove ${check.name}`}>
                        Remove
                      </Button>
                    }
                  />
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
    <RecordTable
      label={`Records that fail ${check.name}`}
      className="mt-2 max-h-64 text-small"
      fields={fields.map((field) => ({ ...field, label: labelOf(field) }))}
      records={found.records}
      clock={zone}
    />
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
  const plain = plainOf(fields);
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
        onChange={choose}
        choices={kinds
          .filter(([kind]) => kind !== 'fresh' || moments.length > 0)
          .map(([kind, said]) => ({ value: kind, words: said }))}
      />
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
          Cancel
        </Button>
      </div>
    </div>
  );
}
