import { useMemo, useState } from 'react';
import { Link } from 'react-router';
import { calledColumns } from '#core/change/calls.ts';
import { linesProblem } from '#core/change/lines.ts';
import { actionProblem } from '#core/change/offers.ts';
import { confirmWords } from '#core/change/words.ts';
import { keyColumn, writableColumn } from '#core/change/writable.ts';
import type { Action, Changes } from '#core/dataset/change/schema.ts';
import type { DataSet } from '#core/dataset/schema.ts';
import { labelOf } from '#core/value/field/value.ts';
import { conditionWords } from '#core/words/condition.ts';
import type { StoredDataSet } from '#server/store/data-sets.ts';
import { Button } from '../../ui/button.tsx';
import { ConfirmRemove } from '../../ui/confirm-remove.tsx';
import { CheckField } from '../../ui/field.tsx';
import { Section } from '../../ui/page.tsx';
import { SaveProblems, SaveState } from '../save-bar.tsx';
import { useSave } from '../use-save.ts';
import { ValuesFrom } from '../value-pick.tsx';
import { ActionForm, type OfferedLines } from './action-form.tsx';
import { Calls } from './calls.tsx';
import { Rules } from './rules.tsx';

interface Props {
  readonly stored: StoredDataSet;
  readonly others: readonly (readonly [string, DataSet])[];
  readonly source: {
    readonly id: string;
    readonly name: string;
    /** Its kind of source takes changes. */
    readonly takesChanges: boolean;
    readonly changer: string | null;
  } | null;
  readonly zone: string;
  /** What people noted of its records is among its fields. */
  readonly showsFollowUps: boolean;
  /** The names of groups that actions can be for. */
  readonly groups: readonly string[];
  readonly lines: OfferedLines;
}

const nothing: Changes = { inPlace: [], actions: [] };
const isNothing = ({ calls, rules = [], actions, inPlace }: Changes): boolean =>
  !calls && rules.length + actions.length + inPlace.length === 0;

/** What people may do to the records: in their place, and by actions. Each change of it is saved as it is made. */
export function ChangesPage({ stored, others, source, zone, showsFollowUps, groups, lines }: Props) {
  const { id, name, definition } = stored;
  const world = useMemo(() => new Map(others), [others]);
  const saving = useSave(`/workroom/data-sets/${id}/save`, stored.revision);
  const adding = useSave(`/workroom/data-sets/${id}/follow-ups`, stored.revision);
  const changes = definition.changes ?? nothing;
  const put = (next: Partial<DataSet>): void =>
    saving.save({ id, name, definition: { ...definition, ...next } });
  const save = (next: Changes): void => put({ changes: isNothing(next) ? undefined : next });
  const key = keyColumn(definition, world);
  const isCalled = source?.takesChanges === true && calledColumns(definition) !== null;
  const isUntold = isCalled && definition.key !== undefined && changes.calls === undefined;
  const closed = !source?.takesChanges
    ? `Records of ${source?.name ?? 'this source'} cannot be changed from here: its kind of source only gives records.`
    : key.ok || isUntold
      ? null
      : `These records cannot be changed: ${key.why}. A change needs a key, so that it reaches the one record that is meant.`;
  return (
    <>
      <p className="min-h-5 text-right">
        <SaveState saving={saving} isChanged={false} />
      </p>
      <SaveProblems saving={saving} zone={zone} />
      {closed === null && source && source.changer === null && (
        <p className="mb-6 max-w-2xl border-l-3 border-slipping pl-3">
          Nobody can change records of {source.name} yet: it has no role for that.{' '}
          <Link to={`/workroom/sources/${source.id}`} className="text-accent hover:underline">
            Name one
          </Link>
        </p>
      )}
      <ValuesFrom id={id} definition={definition} zone={zone}>
        <div className="grid gap-x-12 gap-y-10 lg:grid-cols-[minmax(0,1.4fr)_minmax(0,1fr)]">
          {closed === null ? (
            <div className="flex flex-col gap-10">
              {isCalled && (
                <Calls definition={definition} onChange={(calls) => save({ ...changes, calls })} />
              )}
              <Actions
                definition={definition}
                changes={changes}
                world={world}
                zone={zone}
                groups={groups}
                lines={lines}
                onChange={(actions) => save({ ...changes, actions })}
              />
            </div>
          ) : (
            <p className="max-w-2xl text-lead text-slate">{closed}</p>
          )}
          <div className="flex flex-col gap-10">
            {closed === null && (
              <Rules
                definition={definition}
                rules={changes.rules ?? []}
                onChange={(rules) => save({ ...changes, rules: rules.length > 0 ? rules : undefined })}
              />
            )}
            <Section title="Following up" note="Kept here, not at the source: it needs no role there.">
              <CheckField
                disabled={definition.key === undefined}
                label={`People note what they learnt about ${definition.noun.many}, and who does what`}
                checked={definition.followUp === true}
                onChange={({ target }) => put({ followUp: target.checked ? true : undefined })}
              />
              {definition.followUp &&
                (showsFollowUps ? (
                  <p className="mt-2 text-small text-muted">
                    Its fields say how each {definition.noun.one} stands: its follow-up, when that is due, who
                    has it, and when somebody touched it last.
                  </p>
                ) : (
                  <div className="mt-3 flex flex-col items-start gap-2">
                    <Button disabled={adding.busy} onClick={() => adding.save({})}>
                      Show it as fields
                    </Button>
                    <p className="max-w-prose text-small text-muted">
                      Adds a step that looks up, for each {definition.noun.one}, how it stands, when that is
                      due, who has it, and when somebody touched it last. Panes, reader filters and subsets
                      can use them, such as “last touched more than 7 days ago”.
                    </p>
                    <SaveProblems saving={adding} zone={zone} />
                  </div>
                ))}
            </Section>
            {closed === null && (
              <Section
                title="In their place"
                note="Fields that can be changed one by one, where a pane lets them. Others say why they cannot."
              >
                <ul className="flex flex-col">
                  {definition.fields.map((field) => {
                    const found =
                      field.name === definition.key
                        ? { ok: false as const, why: 'it identifies the record' }
                        : writableColumn(definition, field.name, world);
                    const label = labelOf(field);
                    const isTwice = definition.fields.some(
                      (other) => other !== field && labelOf(other) === label,
                    );
                    const isIn = changes.inPlace.includes(field.name);
                    return (
                      <li key={field.name} className="border-b border-hair py-1">
                        <CheckField
                          label={
                            <>
                              {label}{' '}
                              {isTwice && (
                                <span className="font-mono text-small text-muted">{field.name} </span>
                              )}
                              {!found.ok && <span className="text-small text-muted">— {found.why}</span>}
                            </>
                          }
                          disabled={!found.ok && !isIn}
                          checked={isIn}
                          onChange={() =>
                            save({
                              ...changes,
                              inPlace: isIn
                                ? changes.inPlace.filter((each) => each !== field.name)
                                : [...changes.inPlace, field.name],
                            })
                          }
                        />
                      </li>
                    );
                  })}
                </ul>
              </Section>
            )}
          </div>
        </div>
      </ValuesFrom>
    </>
  );
}

function Actions({
  definition,
  changes: { actions },
  world,
  zone,
  groups,
  lines,
  onChange,
}: {
  definition: DataSet;
  changes: Changes;
  world: ReadonlyMap<string, DataSet>;
  zone: string;
  groups: readonly string[];
  lines: OfferedLines;
  onChange: (actions: Action[]) => void;
}) {
  const [open, setOpen] = useState<string | null>(null);
  const done = (action: Action | null): void => {
    setOpen(null);
    if (!action) return;
    onChange(
      actions.some(({ name }) => name === action.name)
        ? actions.map((each) => (each.name === action.name ? action : each))
        : [...actions, action],
    );
  };
  const form = (action: Action | null) => (
    <ActionForm
      definition={definition}
      world={world}
      action={action}
      taken={actions.map(({ name }) => name)}
      zone={zone}
      groups={groups}
      offered={lines}
      onDone={done}
    />
  );
  return (
    <Section
      title="Actions"
      note={`What supervisors can do to ${definition.noun.many}, from the panes that offer it.`}
      action={<Button onClick={() => setOpen('')}>Make an action</Button>}
    >
      {open === '' && form(null)}
      <ul>
        {actions.map((action) => {
          const ofLines = lines.dataSets.find(({ id }) => id === action.lines?.dataSet);
          const problem =
            actionProblem(action, definition, world) ??
            linesProblem(action, definition, ofLines?.definition, world, lines.as);
          return (
            <li key={action.name} className="border-b border-hair py-2">
              {open === action.name ? (
                form(action)
              ) : (
                <div className="grid grid-cols-[1fr_auto] items-baseline gap-x-4">
                  <span className="font-strong">{action.label}</span>
                  <span className="flex gap-1">
                    <Button
                      look="quiet"
                      onClick={() => setOpen(action.name)}
                      aria-label={`Change ${action.label}`}
                    >
                      Change
                    </Button>
                    <ConfirmRemove
                      what={`“${action.label}”`}
                      goesWith={['Panes that offer it offer it no more, once they are published again.']}
                      onRemove={() => onChange(actions.filter(({ name }) => name !== action.name))}
                      trigger={
                        <Button look="quiet" aria-label={`Remove ${action.label}`}>
                          Remove
                        </Button>
                      }
                    />
                  </span>
                  <span className="col-span-2 text-small text-muted">
                    {confirmWords(action, 1, definition, zone)}
                    {ofLines && ` ${ofLines.name} can be added together with it.`}
                    {action.where &&
                      ` Offered where ${conditionWords(action.where, definition.fields, zone)}.`}
                  </span>
                  {problem && (
                    <span className="col-span-2 text-small text-broken">It cannot be done: {problem}.</span>
                  )}
                </div>
              )}
            </li>
          );
        })}
      </ul>
      {actions.length === 0 && open === null && <p className="text-muted">None yet.</p>}
    </Section>
  );
}
