import { parse } from 'csv-parse/sync';
import type { BlockChange, BlockLook, BlockTakes, ChangeAnswer, LookedAt } from '#core/change/answer.ts';
import type { PastedBlock } from '#core/change/asked.ts';
import {
  type BlockBasis,
  type BlockRow,
  compareBlock,
  headsOf,
  type NamedValue,
  rowsOf,
} from '#core/change/block.ts';
import type { Change, Values } from '#core/change/change.ts';
import { brokenRules, rulesAbout } from '#core/change/rules.ts';
import { checkValue, valuesOf } from '#core/change/values.ts';
import { valueSaid } from '#core/change/words.ts';
import type { Context } from '#core/dashboard/flow/context.ts';
import { fieldOf } from '#core/dashboard/pane/shown.ts';
import { type Action, mostAtOnce } from '#core/dataset/change/schema.ts';
import { keyAndTitle } from '#core/dataset/naming.ts';
import type { DataSet } from '#core/dataset/schema.ts';
import { labelOf, parseValue } from '#core/value/field/value.ts';
import { formatNumber } from '#core/value/format/format.ts';
import { ProblemError } from '#core/value/problem/problem.ts';
import { openSource } from '../sources/open.ts';
import { namedChoices } from './asked.ts';
import { mostOneByOne, recordsFor } from './look.ts';
import { allowedRecords, earlier, type Sender, send } from './send.ts';
import { notOffered, offeringPane, type PlaceOfFields, placeOf, type Subject, toColumns } from './subject.ts';

/* Changes from a block of a spreadsheet: looked at row by row, and then sent as one. */

const label = 'Pasted changes';
const mostUnusable = 50;
const mostExamples = 8;

/** What a block may change of a pane's records: the fields that can be changed in their place, and records by the action that adds one. */
export interface BlockSubject {
  /** Of the records that are there, as an action that asks for each of these fields. */
  readonly known: Subject;
  readonly adding: Action | null;
}

/** What a block may change from a pane. Throws a {@link ProblemError} where the pane offers none of it. */
export function blockSubjectOf(paneId: string, context: Context): BlockSubject {
  const { pane, use, dataSet, offers } = offeringPane(paneId, context);
  const added = offers.actions.find(({ way }) => way === 'insert');
  const adding = dataSet.changes?.actions.find(({ name }) => name === added?.name) ?? null;
  if (offers.inPlace.length === 0 && !adding) throw notOffered();
  const action: Action = {
    name: 'block',
    label,
    way: 'update',
    sets: offers.inPlace.map((field) => ({ field, to: { kind: 'ask' } })),
  };
  return { known: { pane, use, dataSet, action, most: mostAtOnce }, adding };
}

/** What is asked of whoever adds a record. */
const inputsOf = (adding: Action | null): string[] =>
  (adding?.sets ?? []).flatMap(({ field, to }) => (to.kind === 'ask' ? [field] : []));

/** The records that are there, of which these fields may be changed. */
const ofFields = (known: Subject, fields: readonly string[]): Subject => ({
  ...known,
  action: { ...known.action, sets: known.action.sets.filter(({ field }) => fields.includes(field)) },
});

const labelIn = (dataSet: DataSet, name: string): string => labelOf(fieldOf(dataSet, name));

const notChangeable = 'it cannot be changed here';

const problem = (why: string, mend: string): ProblemError =>
  new ProblemError({ code: 'bad-request', doing: 'reading the rows', why, mend });

const tooManyRows = (most: number): ProblemError =>
  problem(`${formatNumber(String(most))} can be changed at once, and these are more`, 'Paste fewer rows.');

/** The cells of a text. A spreadsheet copies them with tabs between; in CSV it is a comma, or a semicolon. */
function cellsOf(text: string, isCopied: boolean): string[][] {
  const [head = ''] = text.split('\n', 1);
  const count = (mark: string): number => head.split(mark).length;
  const delimiter = isCopied || head.includes('\t') ? '\t' : count(';') > count(',') ? ';' : ',';
  try {
    return parse(text.trimEnd(), {
      bom: true,
      delimiter,
      relax_column_count: true,
      relax_quotes: true,
    });
  } catch (thrown) {
    const why = thrown instanceof Error ? thrown.message : String(thrown);
    throw problem(`they are neither cells nor CSV (${why})`, 'Copy them from the spreadsheet again.');
  }
}

interface ReadBlock {
  readonly rows: readonly BlockRow[];
  readonly identity: string | null;
  readonly areNew: boolean;
  /** The fields that its columns hold. */
  readonly fields: readonly string[];
  readonly unread: BlockLook['unread'];
  readonly beyond: BlockLook['beyond'];
}

/** The rows of a block, with what each of its columns is. Throws a {@link ProblemError} for what makes no sense as a whole. */
function readBlock(block: PastedBlock, { known, adding }: BlockSubject): ReadBlock {
  const { dataSet } = known;
  const { key = '' } = dataSet;
  const changeable = known.action.sets.map(({ field }) => field);
  if ('onto' in block) {
    const { keys, fields } = block.onto;
    const lines = cellsOf(block.text, true);
    const width = Math.max(0, ...lines.map((line) => line.length));
    const held = fields.slice(0, width);
    return {
      rows: keys.slice(0, lines.length).map((identity, at) => ({
        place: at + 1,
        identity,
        texts: Object.fromEntries(held.map((field, column) => [field, lines[at]?.[column] || null])),
      })),
      identity: key,
      areNew: false,
      fields: held.filter((field) => changeable.includes(field)),
      unread: held
        .filter((field) => !changeable.includes(field))
        .map((field) => ({ head: labelIn(dataSet, field), why: notChangeable })),
      beyond: {
        rows: Math.max(0, lines.length - keys.length),
        columns: Math.max(0, width - fields.length),
      },
    };
  }
  const [heads = [], ...lines] = cellsOf(block.text, false);
  const inputs = inputsOf(adding);
  const usable = block.areNew ? inputs : changeable;
  const naming = keyAndTitle(dataSet);
  // What can be used comes first, lest a field that looks it up under the same label takes its place.
  const first = [...new Set([...usable, ...naming, ...inputs])];
  const inTurn = [...new Set([...first, ...dataSet.fields.map(({ name }) => name)])];
  const { fields, unknown, twice } = headsOf(
    heads,
    inTurn.map((name) => fieldOf(dataSet, name)),
  );
  if (twice !== null)
    throw problem(`two columns hold “${labelIn(dataSet, twice)}”`, 'Leave one of them out.');
  const identity = block.areNew ? null : (naming.find((name) => fields.includes(name)) ?? null);
  const read = fields.map((field) =>
    field !== null &&
    (usable.includes(field) || field === identity || (inputs.includes(field) && identity === key))
      ? field
      : null,
  );
  return {
    rows: rowsOf(lines, read, identity),
    identity,
    areNew: block.areNew,
    fields: read.flatMap((field) => field ?? []),
    unread: [
      ...unknown.map((head) => ({ head, why: 'there is no such field here' })),
      ...fields.flatMap((field, at) =>
        field !== null && read[at] === null && !naming.includes(field)
          ? [{ head: heads[at] ?? '', why: notChangeable }]
          : [],
      ),
    ],
    beyond: { rows: 0, columns: 0 },
  };
}

/** What a block would change and add, and which of its rows cannot be used. Throws a {@link ProblemError} where it makes no sense as a whole. */
export async function compareWithBlock(
  subject: BlockSubject,
  block: PastedBlock,
  { user, context, signal }: Sender,
): Promise<BlockLook> {
  const { known, adding } = subject;
  const { dataSet, action } = known;
  const read = readBlock(block, subject);
  const { rows, identity, areNew } = read;
  if (rows.length > mostAtOnce) throw tooManyRows(mostAtOnce);
  const takes = takesOf(subject);
  const place = placeOf(dataSet, context.dataSets);
  const { changes: changer } = await openSource(dataSet.source);
  const oneByOne = changer?.together === false;
  const changeable = action.sets.flatMap(({ field }) => (read.fields.includes(field) ? [field] : []));
  const holds = (field: string): boolean => read.fields.includes(field);
  if (rows.length > 0) {
    if (areNew && !takes.additions) throw notOffered();
    if (!areNew && identity === null)
      throw problem(
        `no column says which ${dataSet.noun.one} a row is of`,
        `One of them has to be called “${takes.identities.join('” or “')}”.`,
      );
    const adds = adding?.sets.some(({ field }) => field !== dataSet.key && holds(field)) ?? false;
    const isUseful = areNew ? adds : changeable.length > 0 || (identity === dataSet.key && adds);
    const offered = areNew ? (takes.additions ?? []) : takes.changes;
    if (!isUseful) throw problem('no column holds what can be changed', `That is ${offered.join(', ')}.`);
  }
  const type = dataSet.fields.find(({ name }) => name === identity)?.type ?? 'text';
  const identities = [...new Set(rows.flatMap((row) => row.identity ?? []))].filter(
    (text) => parseValue(type, text).ok,
  );
  const found =
    areNew || identities.length === 0
      ? []
      : (await recordsFor(ofFields(known, changeable), identities, context, signal, identity ?? undefined))
          .records;
  const recordsOf = new Map<string, LookedAt[]>();
  for (const record of found) {
    const by = identity === dataSet.key ? record.key : record.title.trim();
    recordsOf.set(by, [...(recordsOf.get(by) ?? []), record]);
  }
  const choices = await choicesOf(read.fields, place, subject, signal);
  const basis: BlockBasis = {
    dataSet,
    rules: dataSet.changes?.rules,
    changeable,
    adding,
    areNew,
    recordsOf,
    identity,
    targetOf: place.targetOf,
    choicesOf: (field) => choices.get(field) ?? [],
    doing: { clock: context.clock, person: user },
  };
  const { changes, additions, same, unusable } = compareBlock(rows, basis);
  if (oneByOne && changes.length + additions.length > mostOneByOne) throw tooManyRows(mostOneByOne);
  return {
    noun: dataSet.noun,
    takes,
    changes,
    additions,
    same,
    unusable: unusable.slice(0, mostUnusable),
    unusableCount: unusable.length,
    unread: read.unread,
    beyond: read.beyond,
    examples: examplesOf(changes, additions, subject, choices, context),
    oneByOne: oneByOne && changes.length + additions.length > 1,
  };
}

function takesOf({ known: { dataSet, action }, adding }: BlockSubject): BlockTakes {
  const labelled = (names: readonly string[]): string[] => names.map((name) => labelIn(dataSet, name));
  return {
    identities: labelled(keyAndTitle(dataSet)),
    changes: labelled(action.sets.map(({ field }) => field)),
    additions: adding && labelled(inputsOf(adding)),
  };
}

type Choices = ReadonlyMap<string, readonly NamedValue[]>;

/** The records that a block's values may name, by field. */
async function choicesOf(
  fields: readonly string[],
  place: PlaceOfFields,
  { known: { dataSet, action }, adding }: BlockSubject,
  signal: AbortSignal | undefined,
): Promise<Choices> {
  const set = [...action.sets, ...(adding?.sets ?? [])].map(({ field }) => field);
  const named = [...new Set(set)].filter((field) => fields.includes(field));
  return new Map(
    await Promise.all(
      named.map(
        async (field) => [field, (await namedChoices(dataSet, place.columnOf(field), signal)) ?? []] as const,
      ),
    ),
  );
}

/** The first of what is changed and added, in words. */
function examplesOf(
  changes: readonly BlockChange[],
  additions: readonly Values[],
  { known: { dataSet } }: BlockSubject,
  choices: Choices,
  { clock }: Context,
): BlockLook['examples'] {
  const words = (name: string, value: string | null): string =>
    choices.get(name)?.find((choice) => choice.value === value)?.words ??
    valueSaid(fieldOf(dataSet, name), value, clock);
  const changed = changes.slice(0, mostExamples).map(({ title, saw, values }) => ({
    title,
    isNew: false,
    fields: Object.keys(values).map((name) => ({
      label: labelIn(dataSet, name),
      was: words(name, saw[name] ?? null),
      is: words(name, values[name] ?? null),
    })),
  }));
  const added = additions.slice(0, mostExamples - changed.length).map((values) => ({
    title: values[dataSet.title ?? ''] ?? values[dataSet.key ?? ''] ?? `New ${dataSet.noun.one}`,
    isNew: true,
    fields: Object.entries(values).flatMap(([name, value]) =>
      value === null || name === dataSet.title
        ? []
        : [{ label: labelIn(dataSet, name), was: null, is: words(name, value) }],
    ),
  }));
  return [...changed, ...added];
}

interface SentBlock {
  readonly batch: string;
  readonly changes: readonly Pick<BlockChange, 'key' | 'saw' | 'values'>[];
  readonly additions: readonly Values[];
}

/** Makes the changes that a block came to, as the person saw them: all of them, or none. */
export async function sendBlock(
  { known, adding }: BlockSubject,
  { batch, changes, additions }: SentBlock,
  sender: Sender,
): Promise<ChangeAnswer> {
  const { dataSet, action, pane, use } = known;
  const before = await earlier(batch, sender.user);
  if (before) return before;
  const { context, user } = sender;
  const fields = [...new Set(changes.flatMap(({ values }) => Object.keys(values)))];
  if (fields.some((field) => !action.sets.some((set) => set.field === field))) throw notOffered();
  if (additions.length > 0 && !adding) throw notOffered();
  if (changes.length + additions.length > mostAtOnce) throw tooManyRows(mostAtOnce);
  const records =
    changes.length > 0 || additions.length === 0
      ? await allowedRecords(ofFields(known, fields), changes, sender)
      : [];
  const byKey = new Map(records.map((record) => [record.key, record]));
  const place = placeOf(dataSet, context.dataSets);
  const doing = { clock: context.clock, person: user };
  const rules = dataSet.changes?.rules;
  const isBroken = (named: readonly string[], values: Values): boolean =>
    brokenRules(rulesAbout(rules, named), values, dataSet.fields).length > 0;
  const made: Change[] = changes.map(({ key, saw, values }) => {
    const named = Object.keys(values);
    const now = byKey.get(key);
    const isRight = named.every((field) => {
      const checked = checkValue(place.targetOf(field), values[field] ?? null, context.clock.zone);
      return checked.ok && checked.value === (values[field] ?? null) && field in saw;
    });
    if (!isRight || isBroken(named, { ...now?.beside, ...now?.saw, ...values })) throw isOtherwise();
    const expected = Object.fromEntries(named.map((field) => [field, saw[field] ?? null]));
    return { way: 'update', key, expected: toColumns(expected, place), values: toColumns(values, place) };
  });
  for (const given of additions) {
    const read = adding && valuesOf(adding, given, place.targetOf, doing);
    if (!read?.ok || isBroken(Object.keys(read.values), read.values)) throw isOtherwise();
    made.push({ way: 'insert', values: toColumns(read.values, place) });
  }
  const added = additions.length > 0 ? (adding?.sets ?? []).map(({ field }) => field) : [];
  return send(
    {
      batch,
      pane: pane.title,
      label,
      way: changes.length > 0 ? 'update' : 'insert',
      undoes: null,
      fields: [...new Set([...fields, ...added])],
      changes: made,
      titles: new Map(records.map(({ key, title }) => [key, title])),
    },
    { dataSet, dataSetId: use.dataSet, place },
    sender,
  );
}

const isOtherwise = (): ProblemError =>
  problem(
    'what they may say has changed since they were compared',
    'Nothing was changed. Compare them again.',
  );
