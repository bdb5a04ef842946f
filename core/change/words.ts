import type { Action } from '#core/dataset/change/schema.ts';
import type { DataSet } from '#core/dataset/schema.ts';
import type { Field } from '#core/value/field/field.ts';
import { labelOf } from '#core/value/field/value.ts';
import { counted } from '#core/value/format/counted.ts';
import { formatCell, type ReadBy } from '#core/value/format/format.ts';
import { listWords } from '#core/words/condition.ts';

/* What an action does, as a person is told before and after. */

/** A value as readers see it: a state by its word. */
export function valueSaid(field: Field | undefined, value: string | null, by: ReadBy): string {
  if (value === null) return 'blank';
  const state = field?.states?.find((each) => each.value === value);
  if (state) return state.word;
  return field ? formatCell(value, field, by) : value;
}

/** What a field becomes: "status becomes “Done”". */
function settingWords(
  { field: name, to }: Action['sets'][number],
  fields: readonly Field[],
  by: ReadBy,
): string {
  const field = fields.find((each) => each.name === name);
  const label = labelOf(field ?? { name }).toLowerCase();
  switch (to.kind) {
    case 'value':
      return to.value === null
        ? `${label} becomes blank`
        : `${label} becomes “${valueSaid(field, to.value, by)}”`;
    case 'now':
      return `${label} becomes this moment`;
    case 'today':
      return `${label} becomes today`;
    case 'me':
      return `${label} becomes your name`;
    case 'ask':
      return `${label} becomes what you say`;
  }
}

/** What an action is about to do to this many records, in a sentence. */
export function confirmWords(
  action: Pick<Action, 'sets' | 'way'>,
  count: number,
  { noun, fields }: Pick<DataSet, 'noun' | 'fields'>,
  by: ReadBy,
): string {
  switch (action.way) {
    case 'update':
      return `On ${counted(count, noun.one, noun.many)}, ${listWords(action.sets.map((each) => settingWords(each, fields, by)))}.`;
    case 'insert':
      return `Adds one ${noun.one}.`;
    case 'remove':
      return `Removes ${counted(count, noun.one, noun.many)} where they come from. This cannot be undone.`;
  }
}

/** What was done, once it is. Records that are kept here are true again once they have been fetched. `lines`: what came or went with them. */
export function doneWords(
  label: string,
  count: number,
  { noun, keep }: Pick<DataSet, 'noun' | 'keep'>,
  lines: {
    readonly dataSet: Pick<DataSet, 'noun'>;
    readonly changed: { readonly changes: readonly unknown[] };
  } | null = null,
): string {
  const among = lines?.changed.changes.length ?? 0;
  const ofLines =
    lines && among > 0 ? ` with ${counted(among, lines.dataSet.noun.one, lines.dataSet.noun.many)}` : '';
  const done = `${label}: ${counted(count, noun.one, noun.many)}${ofLines}.`;
  return keep ? `${done} The ${noun.many} kept here are being fetched again.` : done;
}
