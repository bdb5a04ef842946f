import { measureOf, plannedMeasure } from '#core/ask/measure/plan.ts';
import type { DataSet } from '#core/dataset/schema.ts';
import { allOf, type GroupsPlan } from '#core/plan/plan.ts';
import type { Cell } from '#core/value/field/value.ts';
import { capital } from '#core/words/capital.ts';
import { groupsWords } from '../../group-words.ts';
import type {
  BriefPart,
  PaneContext,
  PaneKind,
  PanePlan,
  SentenceContext,
  SuggestionContext,
  Unplaced,
  UsedRecords,
} from '../../kind.ts';
import { withoutRecordsWords } from '../../of-one.ts';
import { fieldOf, type ShownField, type ShownMeasure, shownField, shownMeasure } from '../../shown.ts';
import { plainName } from './names.ts';
import type { NotePane, NoteValue } from './schema.ts';
import { written } from './text.ts';

/** A live value as it is now. */
export interface ShownValue {
  readonly name: string;
  readonly value: Cell;
  readonly measure: ShownMeasure;
  /** Where it is a value of a field, and not the number itself. */
  readonly field?: ShownField;
}

export interface NoteBody {
  readonly kind: 'note';
  readonly values: readonly ShownValue[];
}

/** A text with live values in it. */
export const note: PaneKind<NotePane, NoteBody> = {
  forReaders: (pane) => ({
    ...pane,
    values: pane.values.map((value) => {
      const { behind: _, ...rest } = withoutRecordsWords(value);
      return rest;
    }),
  }),
  withRecords: (pane, use, records) => ({
    ...pane,
    values: pane.values.map((value, at) => (at === use ? { ...value, ...records } : value)),
  }),
  ask: askNote,
  sentence: noteSentence,
  questions: [
    {
      ask: 'in words',
      words: 'How would you say it?',
      leads: 'A text with live numbers in it',
      size: { w: 6, h: 4 },
    },
  ],
  suggest: suggestNote,
};

interface AskedValue {
  readonly value: NoteValue;
  readonly plan: GroupsPlan;
  readonly use: UsedRecords;
}

function askNote(pane: NotePane, { records, clock }: PaneContext): PanePlan<NoteBody> {
  const valueQueries = pane.values.flatMap((value, at): AskedValue[] => {
    const use = records[at];
    if (!use) return [];
    const { dataSet, from, applied } = use;
    const planned = plannedMeasure(measureOf(dataSet, value.measure), dataSet, clock);
    const isFilled = value.most === undefined ? null : { field: value.most, test: { op: 'filled' as const } };
    const plan: GroupsPlan = {
      kind: 'groups',
      from,
      zone: clock.zone,
      where: allOf([...applied.map(({ filter }) => filter), isFilled]),
      by: value.most === undefined ? [] : [{ field: value.most }],
      measures: [planned],
      order: value.most === undefined ? [] : [{ by: planned.name, descending: true }, { by: 'group:0' }],
      limit: 1,
    };
    return [{ value, plan, use }];
  });
  return {
    first: Object.fromEntries(valueQueries.map(({ plan }, at) => [String(at), { plan }])),
    shape: (answers) => ({
      kind: 'note',
      values: valueQueries.map(({ value: { name, measure, most }, use: { dataSet } }, at) => ({
        name,
        value: answers.records[at]?.[0]?.[0] ?? null,
        measure: shownMeasure(measureOf(dataSet, measure), dataSet.fields),
        ...(most === undefined ? {} : { field: shownField(fieldOf(dataSet, most)) }),
      })),
    }),
    number: (address) => {
      const at = address.measure ?? 0;
      const one = valueQueries[at];
      const planned = one?.plan.measures[0];
      if (!one || !planned) return null;
      const { dataSet } = one.use;
      return {
        use: at,
        plan: one.plan,
        planned,
        measure: measureOf(dataSet, one.value.measure),
        words: groupsWords(one.plan.by, address, dataSet, clock),
      };
    },
  };
}

function noteSentence({ values, otherwise }: NotePane, { records }: SentenceContext): BriefPart[] {
  const each = values.flatMap(({ name, measure, most }, at): BriefPart[] => {
    const words = records[at];
    if (!words) return [];
    const number = words.measure(measure).text;
    return [
      { text: ' ' },
      { slot: `value:${at}`, text: capital(name) },
      {
        text: ` is ${most === undefined ? number : `the ${words.field(most)} with ${isAmount(words.dataSet, measure) ? 'the most' : 'the highest'} ${number}`}`,
      },
      ...words.which(','),
      { text: '.' },
    ];
  });
  return [
    { text: 'Say it in words, with ' },
    {
      slot: 'values',
      text: values.length === 1 ? 'one live number' : `${values.length || 'no'} live numbers`,
    },
    { text: otherwise ? ', and something else while one in it has no value.' : '.' },
    ...each,
  ];
}

/** Whether a measure counts or adds up, so that there can be most of it. */
const isAmount = ({ measures }: DataSet, name: string): boolean =>
  ['count', 'distinct', 'sum'].includes(
    measures.find((each) => each.name === name)?.calculation.kind ?? 'count',
  );

/** A sentence to begin with: how many there are, and what most of them are. */
function suggestNote(
  _: string,
  { dataSetId, dataSet, category, measure, behind }: SuggestionContext,
): Unplaced<NotePane> {
  const label = dataSet.measures.find(({ name }) => name === measure)?.label ?? measure;
  const count = plainName(label, 'number');
  const most = category && plainName(`top ${category.label?.toLowerCase() ?? category.name}`, 'top one');
  return {
    kind: 'note',
    title: `${capital(dataSet.noun.many)} in words`,
    text: most
      ? `**${written(count)}** ${label}, most of them **${written(most)}**.`
      : `**${written(count)}** ${label}.`,
    values: [
      { name: count, dataSet: dataSetId, measure, behind },
      ...(most && category ? [{ name: most, dataSet: dataSetId, measure, most: category.name, behind }] : []),
    ],
  };
}
