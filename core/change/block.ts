import type { Action, ChangeRule } from '#core/dataset/change/schema.ts';
import type { DataSet } from '#core/dataset/schema.ts';
import type { Field } from '#core/value/field/field.ts';
import { isNumeric, labelOf } from '#core/value/field/value.ts';
import { fromSpreadsheet } from '#core/value/number-style.ts';
import { dayOf } from '#core/value/period/period.ts';
import { typedDay } from '#core/value/period/typed-day.ts';
import type { BlockChange, LookedAt, UnusableRow } from './answer.ts';
import type { Values } from './change.ts';
import { brokenRules, rulesAbout, ruleWords } from './rules.ts';
import { isSameValue } from './same.ts';
import { type Checked, checkValue, type Doing, settledValue, type Target, valuesOf } from './values.ts';

/* Changes from a block of a spreadsheet: each row is of one record and has values of its own. Pure. */

/** A row of a block: its place, what says which record it is of, and its texts as they were pasted, by field. */
export interface BlockRow {
  readonly place: number;
  readonly identity: string | null;
  readonly texts: Values;
}

/** What stands over the columns of a block. */
export interface BlockHeads {
  /** By column, the field that it holds; null where it is not read. */
  readonly fields: readonly (string | null)[];
  /** Heads that are no field’s. */
  readonly unknown: readonly string[];
  /** A field that two columns claim to hold; null where none is. */
  readonly twice: string | null;
}

const plainHead = (head: string): string =>
  head.trim().toLowerCase().replaceAll('_', ' ').replaceAll(/\s+/g, ' ');

/** Finds the field of each column, by its label with or without its unit, or by its name. */
export function headsOf(
  heads: readonly string[],
  known: readonly Pick<Field, 'name' | 'label' | 'unit'>[],
): BlockHeads {
  const byHead = new Map<string, string>();
  for (const field of known) {
    const label = labelOf(field);
    const names = [
      label,
      field.name,
      ...(field.unit ? [`${label} ${field.unit}`, `${label} (${field.unit})`] : []),
    ];
    for (const name of names) if (!byHead.has(plainHead(name))) byHead.set(plainHead(name), field.name);
  }
  const fields = heads.map((head) => byHead.get(plainHead(head)) ?? null);
  const twice = fields.find((field, at) => field !== null && fields.indexOf(field) < at) ?? null;
  return {
    fields,
    unknown: heads.filter((head, at) => fields[at] === null && head.trim() !== ''),
    twice,
  };
}

/** An apostrophe keeps a spreadsheet from running a text as a formula; files written here have it too. */
const unguarded = (text: string): string => (/^'[=+\-@\t\r]/.test(text) ? text.slice(1) : text);

/** The rows under the heads, which are row 1 as in a spreadsheet. Those that hold nothing are left out. */
export function rowsOf(
  lines: readonly (readonly string[])[],
  fields: BlockHeads['fields'],
  identity: string | null,
): BlockRow[] {
  return lines.flatMap((line, at): BlockRow[] => {
    if (line.every((text) => text.trim() === '')) return [];
    const texts: Record<string, string | null> = {};
    for (const [column, field] of fields.entries())
      if (field !== null) texts[field] = unguarded(line[column] ?? '') || null;
    const said = identity === null ? null : (texts[identity]?.trim() ?? '');
    return [{ place: at + 2, identity: said || null, texts }];
  });
}

/** A value that can be chosen, and what it is called. */
export interface NamedValue {
  readonly value: string;
  readonly words: string;
}

const dayAndTime = /^(.*\S)[ ,T]+(\d{1,2}:\d{2}(?::\d{2})?)$/;

/** What a text of a spreadsheet means for a field: a state by its word, a record by its name, a day and a number as people write them. */
function meantBy(
  { field }: Target,
  text: string,
  choices: readonly NamedValue[],
  { now, zone }: Doing['clock'],
): string {
  const typed = text.trim();
  const named = [...(field.states ?? []).map(({ value, word }) => ({ value, words: word })), ...choices];
  if (named.length > 0 && !named.some(({ value }) => value === typed)) {
    const values = new Set(
      named.flatMap(({ value, words }) => (words.toLowerCase() === typed.toLowerCase() ? [value] : [])),
    );
    const [only] = values;
    if (only !== undefined && values.size === 1) return only;
  }
  const year = dayOf(now, zone).slice(0, 4);
  if (isNumeric(field.type)) return fromSpreadsheet(typed);
  if (field.type === 'date') return typedDay(typed, year) ?? typed;
  if (field.type === 'instant') {
    const [, day = '', time = ''] = dayAndTime.exec(typed) ?? [];
    const date = typedDay(day.replace(/,$/, ''), year);
    return date ? `${date}T${time.padStart(time.length > 5 ? 8 : 5, '0')}` : typed;
  }
  return text;
}

/** What a block is compared with, and by what it is checked. */
export interface BlockBasis {
  readonly dataSet: Pick<DataSet, 'noun' | 'fields' | 'key'>;
  readonly rules: readonly ChangeRule[] | undefined;
  /** The fields of records that are there that it may change. */
  readonly changeable: readonly string[];
  /** The action that adds a record; null where none is offered. */
  readonly adding: Action | null;
  /** Every row is a new record. */
  readonly areNew: boolean;
  /** The records, by what says which one a row is of. */
  readonly recordsOf: ReadonlyMap<string, readonly LookedAt[]>;
  /** The field that says it; null where no column does. */
  readonly identity: string | null;
  readonly targetOf: (field: string) => Target;
  readonly choicesOf: (field: string) => readonly NamedValue[];
  readonly doing: Doing;
}

export interface BlockComparison {
  readonly changes: readonly BlockChange[];
  /** What the records that would be added are asked for. */
  readonly additions: readonly Values[];
  /** How many rows say what is so already. */
  readonly same: number;
  readonly unusable: readonly UnusableRow[];
}

type Row =
  | { readonly is: 'change'; readonly change: BlockChange }
  | { readonly is: 'addition'; readonly values: Values }
  | { readonly is: 'same' }
  | { readonly is: 'unusable'; readonly why: string };

const unusable = (why: string): Row => ({ is: 'unusable', why });

/** What each row of a block would do. */
export function compareBlock(rows: readonly BlockRow[], basis: BlockBasis): BlockComparison {
  const changes: BlockChange[] = [];
  const additions: Values[] = [];
  const wrong: UnusableRow[] = [];
  const seen = new Map<string, number>();
  let same = 0;
  for (const { place, identity, texts } of rows) {
    const first = identity === null ? undefined : seen.get(identity);
    if (identity !== null && first === undefined) seen.set(identity, place);
    const row =
      first === undefined || basis.areNew
        ? compareRow(identity, texts, basis)
        : unusable(`row ${first} is of the same ${basis.dataSet.noun.one}`);
    if (row.is === 'change') changes.push(row.change);
    else if (row.is === 'addition') additions.push(row.values);
    else if (row.is === 'same') same += 1;
    else wrong.push({ place, identity, why: row.why });
  }
  return { changes, additions, same, unusable: wrong };
}

function compareRow(identity: string | null, texts: Values, basis: BlockBasis): Row {
  const { dataSet, adding, areNew, recordsOf } = basis;
  const { noun, key } = dataSet;
  if (areNew) return adding ? addition(texts, adding, basis) : unusable(`no ${noun.one} can be added here`);
  const [record, other] = identity === null ? [] : (recordsOf.get(identity) ?? []);
  if (other) return unusable(`more than one ${noun.one} is called that`);
  if (record) return changeOf(record, texts, basis);
  // A name that nobody has is more likely mistyped than a new record’s; a key that people give is not.
  const mayBeNew =
    basis.identity === key &&
    (identity === null || adding?.sets.some(({ field, to }) => field === key && to.kind === 'ask'));
  if (adding && mayBeNew) return addition(texts, adding, basis);
  return unusable(
    identity === null ? `nothing says which ${noun.one} it is` : `this table shows no such ${noun.one}`,
  );
}

function readText(field: string, text: string | null, { targetOf, choicesOf, doing }: BlockBasis): Checked {
  const target = targetOf(field);
  const value = text === null ? null : meantBy(target, text, choicesOf(field), doing.clock);
  return checkValue(target, value, doing.clock.zone);
}

function changeOf(record: LookedAt, texts: Values, basis: BlockBasis): Row {
  const { dataSet, rules, changeable } = basis;
  const values: Record<string, string | null> = {};
  const saw: Record<string, string | null> = {};
  const wrong: string[] = [];
  for (const field of changeable) {
    if (!(field in texts)) continue;
    const checked = readText(field, texts[field] ?? null, basis);
    const was = record.saw[field] ?? null;
    const type = dataSet.fields.find(({ name }) => name === field)?.type ?? 'text';
    // What is not as it should be, and is so already, is nobody’s to mend here.
    if (!checked.ok) {
      if (texts[field]?.trim() !== was) wrong.push(`${labelIn(dataSet, field)}: ${checked.why}`);
    } else if (!isSameValue(type, was, checked.value)) {
      values[field] = checked.value;
      saw[field] = was;
    }
  }
  if (wrong.length > 0) return unusable(wrong.join('; '));
  const changed = Object.keys(values);
  if (changed.length === 0) return { is: 'same' };
  const [broken] = brokenRules(
    rulesAbout(rules, changed),
    { ...record.beside, ...record.saw, ...values },
    dataSet.fields,
  );
  if (broken) return unusable(ruleWords(broken, dataSet.fields));
  return { is: 'change', change: { key: record.key, title: record.title, saw, values } };
}

/** A new record: what an action asks for, as it was pasted. */
function addition(texts: Values, adding: Action, basis: BlockBasis): Row {
  const { dataSet, rules, targetOf, choicesOf, doing } = basis;
  const given: Record<string, string | null> = {};
  for (const { field, to } of adding.sets) {
    const text = texts[field] ?? null;
    if (settledValue(to, doing) === undefined)
      given[field] = text === null ? null : meantBy(targetOf(field), text, choicesOf(field), doing.clock);
  }
  const read = valuesOf(adding, given, targetOf, doing);
  if (!read.ok)
    return unusable(
      Object.entries(read.wrong)
        .map(([field, why]) => `${labelIn(dataSet, field)}: ${why}`)
        .join('; '),
    );
  const [broken] = brokenRules(rulesAbout(rules, Object.keys(read.values)), read.values, dataSet.fields);
  if (broken) return unusable(ruleWords(broken, dataSet.fields));
  return { is: 'addition', values: given };
}

const labelIn = ({ fields }: Pick<DataSet, 'fields'>, name: string): string =>
  labelOf(fields.find((field) => field.name === name) ?? { name });
