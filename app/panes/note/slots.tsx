import { lazy, Suspense, useState } from 'react';
import { plainName } from '#core/dashboard/pane/kinds/note/names.ts';
import type { NotePane, NoteValue } from '#core/dashboard/pane/kinds/note/schema.ts';
import { longestText, renamed, written } from '#core/dashboard/pane/kinds/note/text.ts';
import type { DataSet } from '#core/dataset/schema.ts';
import { freeName } from '#core/value/field/free-name.ts';
import { isTemporal, labelOf } from '#core/value/field/value.ts';
import { measureWords } from '#core/words/measure.ts';
import { Button } from '../../ui/button.tsx';
import { Choices } from '../../ui/choices.tsx';
import { CheckField, TextField } from '../../ui/field.tsx';
import { SelectField } from '../../ui/select-field.tsx';
import { groupable } from '../group-choices.ts';
import type { PaneBrief, SlotProps } from '../slot.ts';

const TextEditor = lazy(() => import('./text-editor.tsx').then((module) => ({ default: module.TextEditor })));

/** The slots of a note's brief: which live values it has, and what each of them is. */
function NoteSlot(props: SlotProps<NotePane>) {
  const { slot, pane, dataSets } = props;
  const at = slot.startsWith('value:') ? Number(slot.slice('value:'.length)) : -1;
  const value = pane.values[at];
  const dataSet = value && dataSets.get(value.dataSet);
  return value && dataSet ? (
    <ValueSlot {...props} value={value} dataSet={dataSet} />
  ) : (
    <NewValue {...props} />
  );
}

/** Another number: the records that it is of, and which measure of them. */
function NewValue({ pane, dataSets, names, onChange, onDone }: SlotProps<NotePane>) {
  const [id, setId] = useState(pane.values.at(-1)?.dataSet ?? [...dataSets.keys()][0] ?? '');
  const dataSet = dataSets.get(id);
  const add = (measure: string): void => {
    const label = dataSet?.measures.find(({ name }) => name === measure)?.label ?? measure;
    const name = nameFor(label, pane);
    onChange({
      ...pane,
      text: `${pane.text}${pane.text === '' || /\s$/.test(pane.text) ? '' : ' '}${written(name)}`,
      values: [...pane.values, { name, dataSet: id, measure }],
    });
    onDone();
  };
  return (
    <div className="flex flex-col gap-3">
      <SelectField
        label="Another number, about"
        value={id}
        onChange={setId}
        choices={[...dataSets.keys()].map((value) => ({ value, words: names.get(value) ?? value }))}
      />
      {dataSet && (
        <Choices
          choices={dataSet.measures.map((measure) => ({
            value: measure.name,
            words: measure.label,
            more: measureWords(measure, dataSet),
          }))}
          now=""
          onChoose={add}
        />
      )}
    </div>
  );
}

const nameFor = (words: string, { values }: NotePane): string =>
  freeName(plainName(words, 'number'), (name) => values.some((each) => each.name === name), ' ');

/** One value: what it is called, its measure, and whether it is the number or what most of it falls to. */
function ValueSlot({
  pane,
  value,
  dataSet,
  onChange,
  onDone,
}: SlotProps<NotePane> & { value: NoteValue; dataSet: DataSet }) {
  const put = (next: NoteValue): void =>
    onChange({ ...pane, values: pane.values.map((each) => (each === value ? next : each)) });
  const [name, setName] = useState(value.name);
  const rename = (): void => {
    const next = plainName(name, value.name);
    const others = pane.values.filter((each) => each !== value);
    setName(next);
    if (next === value.name || others.some((each) => each.name === next)) return;
    onChange({
      ...pane,
      ...inTexts(pane, (text) => renamed(text, value.name, next)),
      values: pane.values.map((each) => (each === value ? { ...each, name: next } : each)),
    });
  };
  return (
    <div className="flex flex-col gap-3">
      <TextField
        label="Called"
        value={name}
        maxLength={60}
        onChange={({ target }) => setName(target.value)}
        onBlur={rename}
      />
      <SelectField
        label="Measure"
        value={value.measure}
        onChange={(measure) => put({ ...value, measure })}
        choices={dataSet.measures.map((measure) => ({ value: measure.name, words: measure.label }))}
      />
      <SelectField
        label="Shows"
        value={value.most ?? ''}
        onChange={(field) => {
          const { most: _, ...number } = value;
          put(field ? { ...number, most: field } : number);
        }}
        choices={[
          { value: '', words: 'the number' },
          ...groupable(dataSet)
            .filter(({ type, name: field }) => !isTemporal(type) && field !== dataSet.key)
            .map((field) => ({
              value: field.name,
              words: `the ${labelOf(field).toLowerCase()} with the highest`,
            })),
        ]}
      />
      <Button
        className="self-start"
        onClick={() => {
          onChange({
            ...pane,
            ...inTexts(pane, (text) => text.replaceAll(written(value.name), '')),
            values: pane.values.filter((each) => each !== value),
          });
          onDone();
        }}
      >
        Remove it
      </Button>
    </div>
  );
}

/** What a note says, the one text and the other, after a change to each. */
const inTexts = (
  { text, otherwise }: NotePane,
  change: (text: string) => string,
): Pick<NotePane, 'text' | 'otherwise'> => ({
  text: change(text),
  ...(otherwise === undefined ? {} : { otherwise: change(otherwise) }),
});

/** The text itself, and what stands in place of it while a number in it has no value. */
function NoteText({ pane, onChange }: { pane: NotePane; onChange: (pane: NotePane) => void }) {
  const { otherwise, ...always } = pane;
  const names = pane.values.map(({ name }) => name);
  const editor = (label: string, text: string, put: (text: string) => void) => (
    <Suspense fallback={<div className="h-36 rounded-[4px] bg-well" />}>
      <TextEditor
        label={label}
        text={text}
        names={names}
        onChange={(next) => put(next.slice(0, longestText))}
      />
    </Suspense>
  );
  return (
    <div className="flex flex-col gap-1.5 sm:col-span-2">
      <span className="text-small font-strong text-slate">Text</span>
      {editor('Text', pane.text, (text) => onChange({ ...pane, text }))}
      <span className="text-small text-muted">
        Written in Markdown: **strong**, *emphasis*, # heading, - list, [words](address).
      </span>
      <CheckField
        label="Say something else while a number in it has no value"
        checked={otherwise !== undefined}
        onChange={({ target }) => onChange(target.checked ? { ...always, otherwise: '' } : always)}
      />
      {otherwise !== undefined &&
        editor('What it says then', otherwise, (text) => onChange({ ...pane, otherwise: text }))}
    </div>
  );
}

export const note: PaneBrief<NotePane> = { Slot: NoteSlot, More: NoteText };
