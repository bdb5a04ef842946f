import { allOf, type GroupsPlan } from '#core/plan/plan.ts';
import type { Cell } from '#core/value/field/value.ts';
import { capital } from '#core/words/capital.ts';
import { listWords } from '#core/words/condition.ts';
import { durationWords } from '#core/words/duration.ts';
import type { BriefPart, PaneContext, PaneKind, PanePlan, SentenceContext, UsedRecords } from '../../kind.ts';
import { withoutRecordsWords } from '../../of-one.ts';
import { fieldOf, type ShownField, shownField } from '../../shown.ts';
import type { Lane, TracePane } from './schema.ts';
import { type LaneEvent, shapeTrace, type TraceLine } from './shape.ts';
import { suggestTrace } from './suggest.ts';
import { laneFields } from './use.ts';

export interface TraceLane {
  readonly name: string;
  /** In the order of an event's cells. */
  readonly fields: readonly ShownField[];
}

export interface TraceBody {
  readonly kind: 'trace';
  /** The case that is looked at; null while there is none. */
  readonly case: string | null;
  readonly lanes: readonly TraceLane[];
  readonly lines: readonly TraceLine[];
  /** Lanes of which there are more events than are shown. */
  readonly cut: readonly string[];
  /** Where nothing is known of the case: those that have its words in them. */
  readonly near: readonly string[];
}

/** The most events of a lane that are shown. */
const mostEvents = 1000;
/** This many cases that may have been meant are named. */
const mostNear = 8;

/** The events of one case over several systems, in order. */
export const trace: PaneKind<TracePane, TraceBody> = {
  view: () => ({ case: { takes: 'text' } }),
  typedCase: (view) => view.case?.[0]?.trim() || undefined,
  forReaders: (pane) => ({
    ...pane,
    about: { ...pane.about, meaning: 'record' },
    lanes: pane.lanes.map((lane) => {
      const { link: _, ...rest } = withoutRecordsWords(lane);
      return rest;
    }),
  }),
  withRecords: (pane, use, records) => ({
    ...pane,
    lanes: pane.lanes.map((lane, at) => (at === use ? { ...lane, ...records } : lane)),
  }),
  ask: askTrace,
  sentence: traceSentence,
  questions: [
    {
      ask: 'in order',
      words: 'What happened, in order?',
      leads: 'The events of one case, over several systems',
      size: { w: 12, h: 12 },
    },
  ],
  suggest: (_, from) => suggestTrace(from),
};

/** The case that the records of a lane are narrowed to. */
function caseOf({ applied }: UsedRecords): string | null {
  const [filter] = applied.filter(({ from }) => from === 'focus').map((each) => each.filter);
  if (!filter || !('field' in filter)) return null;
  const { test } = filter;
  return test.op === 'same' ? test.value : test.op === 'is' ? (test.values[0] ?? null) : null;
}

function askTrace(pane: TracePane, { records, clock }: PaneContext): PanePlan<TraceBody> {
  const found = records.map(caseOf).find((each) => each !== null) ?? null;
  const lanes = pane.lanes.flatMap((lane, at) => {
    const use = records[at];
    if (!use) return [];
    const shown = laneFields(lane);
    const fields = [...new Set([...shown, lane.case])];
    return [{ lane, use, at, shown, fields }];
  });
  const laneQueries = found === null ? [] : lanes.filter(({ use }) => caseOf(use) !== null);
  return {
    first: Object.fromEntries(
      laneQueries.map(({ lane, use, at, fields }) => [
        String(at),
        {
          plan: {
            kind: 'records' as const,
            from: use.from,
            zone: clock.zone,
            where: allOf(use.applied.map(({ filter }) => filter)),
            fields,
            order: [{ by: lane.at }],
            ...(use.dataSet.key === undefined ? {} : { key: use.dataSet.key }),
            offset: 0,
            limit: mostEvents + 1,
          },
        },
      ]),
    ),
    after: ({ records: answers }) => ({
      ask:
        found !== null && laneQueries.every(({ at }) => (answers[at] ?? []).length === 0)
          ? Object.fromEntries(
              laneQueries.flatMap(({ lane, use, at }) => nearQuestion(lane, use, at, found, clock.zone)),
            )
          : {},
      isShown: false,
    }),
    shape: ({ records: answers }) => ({
      kind: 'trace',
      case: found,
      lanes: lanes.map(({ lane, use, shown }) => ({
        name: lane.name,
        fields: shown.map((name) => shownField(fieldOf(use.dataSet, name))),
      })),
      lines: shapeTrace(
        pane,
        laneQueries.flatMap(({ lane, at, shown, fields }) =>
          (answers[at] ?? [])
            .slice(0, mostEvents)
            .map((record) => eventOf(record, { lane, at, shown, fields })),
        ),
        clock.now,
      ),
      cut: laneQueries.flatMap(({ lane, at }) =>
        (answers[at]?.length ?? 0) > mostEvents ? [lane.name] : [],
      ),
      near: [
        ...new Set(
          laneQueries.flatMap(({ at }) => (answers[nearName(at)] ?? []).map(([name]) => String(name))),
        ),
      ].slice(0, mostNear),
    }),
  };
}

const nearName = (at: number): string => `near ${at}`;

/** Which cases of a lane have some words in them; nothing where its cases are no text. */
function nearQuestion(
  lane: Lane,
  { dataSet, from, applied }: UsedRecords,
  at: number,
  words: string,
  zone: string,
): [string, { plan: GroupsPlan }][] {
  if (fieldOf(dataSet, lane.case).type !== 'text') return [];
  const others = applied.filter((each) => each.from !== 'focus').map(({ filter }) => filter);
  const plan: GroupsPlan = {
    kind: 'groups',
    from,
    zone,
    where: allOf([...others, { field: lane.case, test: { op: 'contains', text: words } }]),
    by: [{ field: lane.case }],
    measures: [{ name: 'count', calculation: { kind: 'count' } }],
    order: [{ by: 'group:0' }],
    limit: mostNear,
  };
  return [[nearName(at), { plan }]];
}

function eventOf(
  record: readonly Cell[],
  of: {
    readonly lane: Lane;
    readonly at: number;
    readonly shown: readonly string[];
    readonly fields: readonly string[];
  },
): LaneEvent {
  const cell = (name: string | undefined): Cell =>
    name === undefined ? null : (record[of.fields.indexOf(name)] ?? null);
  const text = (name: string | undefined): string | null => {
    const value = cell(name);
    return value === null ? null : String(value);
  };
  const moment = (name: string | undefined): string | null => {
    const value = text(name);
    return value !== null && !Number.isNaN(Date.parse(value)) ? value : null;
  };
  return {
    lane: of.at,
    at: moment(of.lane.at),
    clock: moment(of.lane.clock),
    cells: of.shown.map(cell),
    values: Object.fromEntries(
      of.fields.flatMap((name) => {
        const value = text(name);
        return value === null ? [] : [[name, value]];
      }),
    ),
  };
}

function traceSentence(
  { about, lanes, longGap, expects }: TracePane,
  { records }: SentenceContext,
): BriefPart[] {
  const name = (at: number): string => lanes[at]?.name ?? '';
  const each = lanes.flatMap((lane, at): BriefPart[] => {
    const words = records[at];
    if (!words) return [];
    return [
      { text: ' ' },
      { slot: `lane:${at}`, text: capital(lane.name) },
      {
        text: ` has ${words.dataSet.noun.many} by ${words.field(lane.at)}${lane.outcome === undefined ? '' : `, judged by ${words.field(lane.outcome)}`}`,
      },
      ...words.which(','),
      { text: '.' },
    ];
  });
  return [
    { text: `Follow one ${about.noun} through ` },
    {
      slot: 'lanes',
      text: listWords(
        lanes.map((lane) => lane.name),
        'and',
        8,
      ),
    },
    { text: ', marking gaps of ' },
    { slot: 'gap', text: longGap === undefined ? 'the slowest tenth' : `${durationWords(longGap)} or more` },
    { text: ', expecting ' },
    {
      slot: 'expects',
      text:
        expects.length === 0
          ? 'nothing in particular'
          : listWords(
              expects.map(
                ({ lane, after, minutes }) =>
                  `${name(lane)} within ${durationWords(minutes * 60)} of ${name(after)}`,
              ),
            ),
    },
    { text: '.' },
    ...each,
  ];
}
