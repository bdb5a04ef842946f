import type { ChangeAnswer, ConflictShown, LookedAt } from '#core/change/answer.ts';
import type { Change, ChangedRecord, Conflict, Values } from '#core/change/change.ts';
import { recordPlace } from '#core/change/place.ts';
import { brokenRules, rulesAbout, ruleWords } from '#core/change/rules.ts';
import { valuesOf } from '#core/change/values.ts';
import { doneWords, valueSaid } from '#core/change/words.ts';
import type { Context } from '#core/dashboard/flow/context.ts';
import type { Way } from '#core/dataset/change/schema.ts';
import type { DataSet } from '#core/dataset/schema.ts';
import { labelOf } from '#core/value/field/value.ts';
import { ProblemError, problemOf } from '#core/value/problem/problem.ts';
import type { ChangeResult } from '#sources/change.ts';
import { openSource } from '../sources/open.ts';
import {
  beginBatch,
  type ChangedOne,
  endBatch,
  findBatch,
  markBatch,
  noteOutcomes,
  recordsOfBatch,
  type StoredBatch,
} from '../store/changes.ts';
import type { User } from '../store/people.ts';
import { linesOf, linesToAdd, readLines, type SentLines } from './lines.ts';
import { mostOneByOne, onlyOf, recordsFor, tooMany } from './look.ts';
import {
  columnsOf,
  notOffered,
  type PlaceOfFields,
  placeOf,
  type Subject,
  toColumns,
  toFields,
} from './subject.ts';
import { tellOf } from './tell.ts';

/*
 * Sends changes to where the records come from: noted before, sent in one go, noted after, and told to every open page. What is sent twice
 * under one name is done once.
 */

export interface Sender {
  readonly user: User;
  readonly deskId: string | null;
  readonly dashboardId: string;
  readonly context: Context;
  readonly signal?: AbortSignal | undefined;
}

interface Sent {
  readonly batch: string;
  readonly records: readonly { readonly key: string; readonly saw: Values }[];
  readonly values: Values;
  /** What is added together with the record. */
  readonly lines?: readonly Values[] | undefined;
}

/** Does what a pane offers to records of it, as the person saw them. */
export async function sendChange(
  subject: Subject,
  { batch, records, values: given, lines: givenLines = [] }: Sent,
  sender: Sender,
): Promise<ChangeAnswer> {
  const { dataSet, action } = subject;
  const { context } = sender;
  const before = await earlier(batch, sender.user);
  if (before) return before;
  const place = placeOf(dataSet, context.dataSets);
  const doing = { clock: context.clock, person: sender.user };
  const read = valuesOf(action, given, place.targetOf, doing);
  const linesSubject = await linesOf(subject, context);
  if (!linesSubject && givenLines.length > 0) throw notOffered();
  const readOfLines = linesSubject && readLines(linesSubject, givenLines, doing);
  if (!read.ok || readOfLines?.ok === false)
    return {
      state: 'wrong',
      wrong: read.ok ? {} : read.wrong,
      ...(readOfLines?.ok === false ? { lines: readOfLines.wrong } : {}),
    };
  const isNew = action.way === 'insert';
  const known = isNew ? [] : await allowedRecords(subject, records, sender);
  const fields = action.sets.map(({ field }) => field);
  const broken = action.way === 'remove' ? null : wrongBetween(subject, read.values, known);
  if (broken) return { state: 'wrong', wrong: broken };
  const saw = new Map(records.map((each) => [each.key, each.saw]));
  const values = toColumns(read.values, place);
  const changes: Change[] = isNew
    ? [{ way: 'insert', values }]
    : known.map(({ key }): Change => {
        const expected = toColumns(onlyOf(saw.get(key) ?? {}, fields), place);
        return action.way === 'remove'
          ? { way: 'remove', key, expected }
          : { way: 'update', key, expected, values };
      });
  return send(
    {
      batch,
      pane: subject.pane.title,
      label: action.label,
      way: action.way,
      undoes: null,
      fields,
      changes,
      lines:
        linesSubject && readOfLines?.ok && readOfLines.lines.length > 0
          ? linesToAdd(linesSubject, readOfLines.lines)
          : null,
      titles: new Map(known.map(({ key, title }) => [key, title])),
    },
    { dataSet, dataSetId: subject.use.dataSet, place },
    sender,
  );
}

/** Which rules between fields are broken once these values are set, by field; null where none is. */
function wrongBetween(
  { dataSet, action }: Subject,
  values: Values,
  known: readonly LookedAt[],
): Record<string, string> | null {
  const fields = action.sets.map(({ field }) => field);
  const rules = rulesAbout(dataSet.changes?.rules, fields);
  const of: readonly Pick<LookedAt, 'title' | 'saw' | 'beside'>[] =
    action.way === 'insert' ? [{ title: '', saw: {}, beside: {} }] : known;
  for (const { title, saw, beside } of of)
    for (const rule of brokenRules(rules, { ...beside, ...saw, ...values }, dataSet.fields)) {
      const where = fields.includes(rule.field) ? rule.field : rule.than;
      const words = ruleWords(rule, dataSet.fields);
      return { [where]: of.length > 1 ? `${words}, which it would not be for ${title}` : words };
    }
  return null;
}

/** The records among those asked for that may be changed: all of them, or it throws. */
export async function allowedRecords(
  subject: Subject,
  wanted: readonly { readonly key: string }[],
  { context, signal }: Sender,
): Promise<LookedAt[]> {
  const keys = [...new Set(wanted.map(({ key }) => key))];
  const { noun } = subject.dataSet;
  const { records } = await recordsFor(subject, keys, context, signal);
  if (records.length === keys.length && keys.length > 0) return records;
  throw new ProblemError({
    code: 'forbidden',
    doing: `“${subject.action.label}”`,
    why:
      keys.length === 0
        ? `no ${noun.one} was chosen`
        : `it is not offered for ${keys.length - records.length} of these ${keys.length} ${noun.many} now: they may have been changed meanwhile`,
    mend: 'Nothing was changed. Look at them again.',
  });
}

/** What became of a batch that was sent before under this name, by the same person; null where none was. */
export async function earlier(batch: string, user: User): Promise<ChangeAnswer | null> {
  const known = await findBatch(batch);
  if (!known) return null;
  if (known.userId !== user.id || known.state === 'refused') return refusedBefore();
  if (known.state !== 'done') return { state: 'unknown' };
  const records = await recordsOfBatch(batch);
  if (records.some(({ outcome }) => outcome))
    return eachAnswer(known, records, `${known.label}: done in part.`);
  return {
    state: 'done',
    batch,
    words: `${known.label}: done.`,
    canUndo: known.way !== 'remove' && known.linesDataSetId === null,
    added: null,
  };
}

/** What is told of changes of which some were not made. */
const eachAnswer = (
  { id, way, undoes }: Pick<StoredBatch, 'id' | 'way' | 'undoes'>,
  records: readonly ChangedOne[],
  words: string,
): ChangeAnswer => ({
  state: 'each',
  batch: id,
  words,
  canUndo: way !== 'remove' && undoes === null && records.some(({ outcome }) => !outcome),
  notMade: records.flatMap(({ key, title, outcome, why }) =>
    outcome ? [{ key, title, isKnown: outcome === 'refused', why: why ?? '' }] : [],
  ),
});

const refusedBefore = (): ChangeAnswer => ({
  state: 'failed',
  problem: {
    code: 'bad-request',
    doing: 'changing records',
    why: 'this was sent before, and nothing was changed',
    mend: 'Try it again from the start.',
  },
});

interface Going {
  readonly batch: string;
  readonly pane: string;
  readonly label: string;
  readonly way: Way;
  readonly undoes: string | null;
  /** The fields that are set or compared. */
  readonly fields: readonly string[];
  readonly changes: readonly Change[];
  /** What comes or goes with the one record that is changed. */
  readonly lines?: SentLines | null;
  readonly titles: ReadonlyMap<string, string>;
}

/** Sends what was checked, notes it before and after, and tells every open page. */
export async function send(
  { batch, pane, label, way, undoes, fields, changes, lines = null, titles }: Going,
  { dataSet, dataSetId, place }: { dataSet: DataSet; dataSetId: string; place: PlaceOfFields },
  { user, deskId, dashboardId, context }: Sender,
): Promise<ChangeAnswer> {
  const doing = `“${label}”`;
  const { changes: changer } = await openSource(dataSet.source);
  if (changer && !changer.together && changes.length > mostOneByOne)
    throw tooMany(doing, mostOneByOne, dataSet.noun.many);
  if (!changer)
    throw new ProblemError({
      code: 'forbidden',
      doing,
      why: 'nobody may change records of this source: it has no role for that',
      mend: 'An analyst can name one on the page of the source.',
    });
  const columns = columnsOf(fields, place);
  const where = recordPlace(dataSetId, dataSet);
  const isNew = await beginBatch({
    id: batch,
    place: where,
    sourceId: dataSet.source,
    dataSetId,
    linesDataSetId: lines?.dataSetId ?? null,
    deskId,
    dashboardId,
    pane,
    label,
    way,
    undoes,
    userId: user.id,
    userName: user.name,
  });
  if (!isNew) return (await earlier(batch, user)) ?? refusedBefore();
  const titleColumn = columns.find(({ name }) => name === dataSet.title)?.name;
  const named = (record: ChangedRecord): ChangedOne =>
    record.isLine && lines
      ? lines.named(record)
      : {
          key: record.key,
          title: titles.get(record.key) ?? record.after?.[titleColumn ?? ''] ?? record.key,
          before: toFields(record.before, fields, place),
          after: toFields(record.after, fields, place),
        };
  let result: ChangeResult;
  try {
    result = await changer.change({
      place: place.place,
      columns,
      changes,
      lines: lines?.changed,
      doing,
      once: batch,
      beforeEnd: (mark, records) => markBatch(batch, mark, where, records.map(named)),
    });
  } catch (thrown) {
    // Where even this cannot be noted, it is found out later.
    await endBatch(batch, 'refused').catch(() => undefined);
    return { state: 'failed', problem: problemOf(thrown, doing) };
  }
  // What the source has done is so, whether or not our own database can be told of it now; whoever lost touch with it asks again.
  const noted = async (state: 'done' | 'unknown'): Promise<void> => {
    await endBatch(batch, state).catch(() => undefined);
    await tellOf(
      { id: dataSetId, dataSet },
      ...(lines ? [{ id: lines.dataSetId, dataSet: lines.dataSet }] : []),
    ).catch(() => undefined);
  };
  switch (result.state) {
    case 'conflict': {
      const shown = { changes, fields, place, dataSet, titles, context };
      const ofLines = lines ? { ...shown, ...lines, changes: lines.changed.changes } : shown;
      await endBatch(batch, 'refused').catch(() => undefined);
      return {
        state: 'conflict',
        conflicts: result.conflicts.map((each) => conflictShown(each, each.isLine ? ofLines : shown)),
      };
    }
    case 'unknown':
      await noted('unknown');
      return { state: 'unknown' };
    case 'each': {
      const records = result.each.map(
        ({ record, outcome, problem }): ChangedOne => ({
          ...named(record),
          outcome: outcome === 'done' ? null : outcome,
          why: problem && `${problem.why}. ${problem.mend}`,
        }),
      );
      await noteOutcomes(batch, records).catch(() => undefined);
      const successes = records.filter(({ outcome }) => !outcome);
      const isUnknown = records.some(({ outcome }) => outcome === 'unknown');
      if (successes.length === 0 && !isUnknown) await endBatch(batch, 'refused').catch(() => undefined);
      else await noted(isUnknown ? 'unknown' : 'done');
      return eachAnswer({ id: batch, way, undoes }, records, doneWords(label, successes.length, dataSet));
    }
    case 'done':
      // A service may have made something of its own of what it was sent, and knows what it has added by a key of its own.
      if (!changer.together) await noteOutcomes(batch, result.records.map(named)).catch(() => undefined);
      await noted('done');
      return {
        state: 'done',
        batch,
        words: doneWords(label, changes.length, dataSet, lines),
        canUndo: way !== 'remove' && undoes === null && (lines === null || changer.together),
        added: way === 'insert' ? addedOf(result.records.filter(({ isLine }) => !isLine).map(named)) : null,
      };
  }
}

/** The one record that was added, where its key is known. */
function addedOf(records: readonly ChangedOne[]): { key: string; title: string } | null {
  const [only] = records;
  return only && records.length === 1 && only.key !== '' ? { key: only.key, title: only.title } : null;
}

function conflictShown(
  { key, is }: Conflict,
  of: {
    changes: readonly Change[];
    fields: readonly string[];
    place: PlaceOfFields;
    dataSet: DataSet;
    titles: ReadonlyMap<string, string>;
    context: Context;
  },
): ConflictShown {
  const { changes, fields, place, dataSet, titles, context } = of;
  const change = changes.find((each) => each.way !== 'insert' && each.key === key);
  const expected = change && change.way !== 'insert' ? change.expected : {};
  const now = toFields(is, fields, place);
  return {
    key,
    title: titles.get(key) ?? key,
    is: now,
    fields:
      now &&
      fields.flatMap((name) => {
        const field = dataSet.fields.find((each) => each.name === name);
        const column = place.columnOf(name).name;
        const saw = expected[column] ?? null;
        const value = now[name] ?? null;
        // What was not seen is not compared.
        if (!(column in expected) || saw === value) return [];
        const said = (text: string | null): string => valueSaid(field, text, context.clock);
        return [{ label: labelOf(field ?? { name }), saw: said(saw), is: said(value) }];
      }),
  };
}
