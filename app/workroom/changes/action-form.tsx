import X from 'lucide-react/icons/x';
import { useState } from 'react';
import { lineActions, linesProblem } from '#core/change/lines.ts';
import { actionProblem } from '#core/change/offers.ts';
import { checkValue } from '#core/change/values.ts';
import { confirmWords } from '#core/change/words.ts';
import { writableColumn } from '#core/change/writable.ts';
import type { Action, ActionLines, Setting, Way } from '#core/dataset/change/schema.ts';
import { oneTable } from '#core/dataset/one-table.ts';
import type { DataSet } from '#core/dataset/schema.ts';
import type { Field } from '#core/value/field/field.ts';
import { freeName } from '#core/value/field/free-name.ts';
import { labelOf } from '#core/value/field/value.ts';
import { Button, IconButton } from '../../ui/button.tsx';
import { ChoiceBox } from '../../ui/choice.tsx';
import { CheckField, smallBox, TextField } from '../../ui/field.tsx';
import { SelectField } from '../../ui/select-field.tsx';
import { ValueInput } from '../../ui/value-input.tsx';
import { ConditionEditor } from '../condition-editor.tsx';

const wayWords: Readonly<Record<Way, string>> = {
  update: 'set fields of records',
  insert: 'add a record',
  remove: 'remove records',
};

/** What a field can be set to, of its type. */
const settingsFor = ({ type }: Field): { value: Setting['kind']; words: string }[] => [
  { value: 'value', words: 'this value' },
  { value: 'ask', words: 'what the person says' },
  ...(type === 'instant' ? [{ value: 'now' as const, words: 'the moment it is done' }] : []),
  ...(type === 'date' ? [{ value: 'today' as const, words: 'the day it is done' }] : []),
  ...(type === 'text' ? [{ value: 'me' as const, words: 'the name of whoever does it' }] : []),
];

const newSetting = (kind: Setting['kind']): Setting => (kind === 'value' ? { kind, value: null } : { kind });

/** What can be shown once it is done. */
const afterChoices = (way: Way): { value: 'stay' | 'next' | 'open'; words: string }[] => [
  { value: 'stay', words: 'the page stays as it is' },
  ...(way === 'insert'
    ? []
    : [{ value: 'next' as const, words: 'the next record opens, where one was open' }]),
  ...(way === 'remove'
    ? []
    : [{ value: 'open' as const, words: way === 'insert' ? 'what was added opens' : 'the record opens' }]),
];

/** A name for the definition, of what stands on the button. */
function nameOf(label: string, taken: readonly string[]): string {
  const stem = label
    .trim()
    .toLowerCase()
    .replace(/[^\p{L}\p{N}]+/gu, '_')
    .slice(0, 60);
  return freeName(stem || 'action', (name) => taken.includes(name));
}

/** What can be added together with a record of this data set. */
export interface OfferedLines {
  /** How the source takes lines; null where it does not. */
  readonly as: 'rows' | 'member' | null;
  /** The data sets of the source that have an action which adds a record. */
  readonly dataSets: readonly { readonly id: string; readonly name: string; readonly definition: DataSet }[];
}

/** One action: what it is called, what it sets, for which records, and the sentence that people will read before they do it. */
export function ActionForm({
  definition,
  world,
  action,
  taken,
  zone,
  groups,
  offered,
  onDone,
}: {
  definition: DataSet;
  world: ReadonlyMap<string, DataSet>;
  action: Action | null;
  taken: readonly string[];
  zone: string;
  /** The names of all groups. */
  groups: readonly string[];
  offered: OfferedLines;
  onDone: (action: Action | null) => void;
}) {
  const [draft, setDraft] = useState<Action>(action ?? { name: '', label: '', way: 'update', sets: [] });
  const settable = definition.fields.filter(({ name }) => writableColumn(definition, name, world).ok);
  const next: Action = {
    ...draft,
    label: draft.label.trim(),
    name: action?.name ?? nameOf(draft.label, taken),
    sets: draft.way === 'remove' ? [] : draft.sets,
    ...(draft.way === 'insert' ? {} : { lines: undefined }),
  };
  const wrong = next.sets.flatMap(({ field: name, to }) => {
    const field = definition.fields.find((each) => each.name === name);
    const found = writableColumn(definition, name, world);
    if (!field || !found.ok || to.kind !== 'value') return [];
    const checked = checkValue({ field, column: found.column }, to.value, zone);
    return checked.ok ? [] : [`${labelOf(field)}: ${checked.why}`];
  });
  const ofLines = offered.dataSets.find(({ id }) => id === next.lines?.dataSet)?.definition;
  const problem =
    next.label === ''
      ? null
      : (actionProblem(next, definition, world) ??
        linesProblem(next, definition, ofLines, world, offered.as));
  const free = settable.filter(({ name }) => !draft.sets.some(({ field }) => field === name));
  return (
    <div className="my-2 flex flex-col gap-3 rounded-[4px] border border-line bg-sheet p-3">
      <TextField
        label="On its button"
        placeholder="Set done"
        value={draft.label}
        maxLength={100}
        autoFocus
        onChange={({ target }) => setDraft({ ...draft, label: target.value })}
      />
      <SelectField
        label="What it does"
        value={draft.way}
        choices={(Object.keys(wayWords) as Way[]).map((value) => ({ value, words: wayWords[value] }))}
        onChange={(way) => setDraft({ ...draft, way, after: undefined })}
      />
      {draft.way !== 'remove' && (
        <fieldset className="flex min-w-0 flex-col gap-2">
          <legend className="mb-1 text-small font-strong text-slate">Sets</legend>
          {draft.sets.map((set, at) => {
            const field = definition.fields.find(({ name }) => name === set.field);
            const put = (to: Setting): void =>
              setDraft({
                ...draft,
                sets: draft.sets.map((each, index) => (index === at ? { ...each, to } : each)),
              });
            const label = field ? labelOf(field) : set.field;
            return (
              <div key={set.field} className="flex min-w-0 flex-wrap items-center gap-2">
                <span className="min-w-28 text-small">{label}</span>
                <ChoiceBox
                  aria-label={`${label} becomes`}
                  className={smallBox}
                  value={set.to.kind}
                  choices={settingsFor(field ?? { name: set.field, type: 'text' })}
                  onChange={(kind) => put(newSetting(kind))}
                />
                {set.to.kind === 'value' && field && (
                  <ValueInput
                    aria-label={`Value of ${label}`}
                    field={field}
                    value={set.to.value}
                    zone={zone}
                    className={`${smallBox} flex-1`}
                    onChange={(value) => put({ kind: 'value', value })}
                  />
                )}
                {set.to.kind === 'ask' && (
                  <CheckField
                    label="needed"
                    checked={set.to.required === true}
                    onChange={({ target }) =>
                      put({ kind: 'ask', ...(target.checked ? { required: true } : {}) })
                    }
                  />
                )}
                <IconButton
                  name={`Leave ${label.toLowerCase()} as it is`}
                  onClick={() => setDraft({ ...draft, sets: draft.sets.filter((_, index) => index !== at) })}
                >
                  <X className="size-4" />
                </IconButton>
              </div>
            );
          })}
          {free.length > 0 && (
            <ChoiceBox
              aria-label="Set a field"
              className={`${smallBox} self-start`}
              value=""
              choices={[
                { value: '', words: draft.sets.length === 0 ? 'Choose a field' : 'One more field' },
                ...free.map((field) => ({ value: field.name, words: labelOf(field) })),
              ]}
              onChange={(field) => {
                if (field !== '')
                  setDraft({ ...draft, sets: [...draft.sets, { field, to: newSetting('value') }] });
              }}
            />
          )}
        </fieldset>
      )}
      {draft.way === 'insert' && offered.as !== null && (
        <LinesChoice
          of={definition}
          offered={offered}
          lines={draft.lines}
          onChange={(lines) => setDraft({ ...draft, lines })}
        />
      )}
      {draft.way !== 'insert' && (
        <ConditionEditor
          label="Offered for"
          fields={definition.fields}
          value={draft.where}
          onChange={(where) => {
            const { where: _, ...rest } = draft;
            setDraft(where ? { ...rest, where } : rest);
          }}
        />
      )}
      <SelectField
        label="Afterwards"
        value={draft.after ?? 'stay'}
        choices={afterChoices(draft.way)}
        onChange={(after) => setDraft({ ...draft, after: after === 'stay' ? undefined : after })}
      />
      <GroupList
        groups={groups}
        chosen={draft.groups ?? []}
        onChange={(chosen) => {
          const { groups: _, ...rest } = draft;
          setDraft(chosen.length > 0 ? { ...rest, groups: chosen } : rest);
        }}
      />
      {(next.way !== 'update' || next.sets.length > 0) && (
        <p className="text-small text-slate">{confirmWords(next, 1, definition, zone)}</p>
      )}
      {[...(problem ? [problem] : []), ...wrong].map((each) => (
        <p key={each} className="text-small text-broken">
          {each}.
        </p>
      ))}
      <div className="flex gap-2">
        <Button
          look="main"
          disabled={next.label === '' || problem !== null || wrong.length > 0}
          onClick={() => onDone(next)}
        >
          Save the action
        </Button>
        <Button look="quiet" onClick={() => onDone(null)}>
          Cancel
        </Button>
      </div>
    </div>
  );
}

/** The field of lines that most likely says which record they are of: what points at its table, else the first that is asked for. */
function likelyRefers({ request }: DataSet, lines: DataSet): string {
  const [of, own] = [oneTable(request), oneTable(lines.request)];
  const pointing = own?.lookUps.find(
    ({ schema, table, from }) => schema === of?.schema && table === of.table && from === undefined,
  );
  const column = own?.columns.find(({ column }) => column === pointing?.by);
  const asked = lineActions(lines)[0]?.sets.find(({ to }) => to.kind === 'ask');
  return column?.name ?? asked?.field ?? '';
}

/** What is added together with a record: lines of which data set, by which of its actions, and how they say which record they are of. */
function LinesChoice({
  of,
  offered: { as, dataSets },
  lines,
  onChange,
}: {
  of: DataSet;
  offered: OfferedLines;
  lines: ActionLines | undefined;
  onChange: (lines: ActionLines | undefined) => void;
}) {
  const definition = dataSets.find(({ id }) => id === lines?.dataSet)?.definition;
  const put = (next: Partial<ActionLines>): void => lines && onChange({ ...lines, ...next });
  const choose = (id: string): void => {
    const chosen = dataSets.find((each) => each.id === id)?.definition;
    const [first] = chosen ? lineActions(chosen) : [];
    onChange(
      chosen && first ? { dataSet: id, action: first.name, refers: likelyRefers(of, chosen) } : undefined,
    );
  };
  return (
    <fieldset className="flex min-w-0 flex-col gap-2">
      <SelectField
        label="Added together with it"
        value={lines?.dataSet ?? ''}
        choices={[
          {
            value: '',
            words:
              dataSets.length === 0
                ? 'nothing: no other data set of this source has an action that adds'
                : 'nothing',
          },
          ...(lines && !definition
            ? [{ value: lines.dataSet, words: 'a data set that no longer exists' }]
            : []),
          ...dataSets.map(({ id, name }) => ({ value: id, words: name })),
        ]}
        onChange={choose}
      />
      {lines && definition && (
        <>
          <SelectField
            label="Each is filled in as for"
            value={lines.action}
            choices={lineActions(definition).map(({ name, label }) => ({ value: name, words: label }))}
            onChange={(action) => put({ action })}
          />
          <SelectField
            label="The field that says what it belongs to"
            value={lines.refers}
            choices={definition.fields.map((field) => ({
              value: field.name,
              words: labelOf(field) === field.name ? field.name : `${labelOf(field)} (${field.name})`,
            }))}
            onChange={(refers) => put({ refers })}
          />
          {as === 'member' && (
            <TextField
              label="Their name in the request to the service"
              placeholder="lines"
              value={lines.member ?? ''}
              maxLength={200}
              onChange={({ target }) =>
                put({ member: target.value.trim() === '' ? undefined : target.value })
              }
            />
          )}
        </>
      )}
    </fieldset>
  );
}

/** Whom an action is for: people of some groups, or all who may change records. */
function GroupList({
  groups,
  chosen,
  onChange,
}: {
  groups: readonly string[];
  chosen: readonly string[];
  onChange: (chosen: string[]) => void;
}) {
  // One that has gone by now can still be taken off.
  const offered = [...new Set([...groups, ...chosen])];
  if (offered.length === 0) return null;
  return (
    <fieldset className="flex flex-col gap-1">
      <legend className="mb-1 text-small font-strong text-slate">
        Only for people of these groups (for all who may change records if none is chosen)
      </legend>
      {offered.map((name) => (
        <CheckField
          key={name}
          label={name}
          checked={chosen.includes(name)}
          onChange={({ target }) =>
            onChange(target.checked ? [...chosen, name] : chosen.filter((each) => each !== name))
          }
        />
      ))}
    </fieldset>
  );
}
