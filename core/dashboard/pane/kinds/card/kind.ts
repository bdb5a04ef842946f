import { type Filter, withinSpan } from '#core/ask/condition/resolve.ts';
import type { PlannedMeasure } from '#core/ask/measure/calculation.ts';
import { measureOf, plannedMeasure } from '#core/ask/measure/plan.ts';
import { allOf, type GroupsPlan } from '#core/plan/plan.ts';
import type { Cell } from '#core/value/field/value.ts';
import { formatCell, formatMoment } from '#core/value/format/format.ts';
import { type Clock, dayOf, resolvePeriod, type Span } from '#core/value/period/period.ts';
import { capital } from '#core/words/capital.ts';
import { dayWords } from '#core/words/period.ts';
import { behindParts } from '../../behind-parts.ts';
import { type OneContext, type OnePlan, ofOne } from '../../of-one.ts';
import { type ShownMeasure, shownMeasure } from '../../shown.ts';
import { spanWords } from '../../span-words.ts';
import { proposeCards } from './propose.ts';
import type { CardPane } from './schema.ts';
import { cardSpans, periodOfCard } from './spans.ts';
import { askTrend, type Trend } from './trend.ts';

export interface CardBody {
  readonly kind: 'card';
  readonly measure: ShownMeasure;
  readonly now: Cell;
  /** Absent where there is nothing to compare with. */
  readonly before?: Cell;
  readonly nowWords?: string;
  /** The period compared with, as a sentence says it after "than": "26 Nov", "by 15:53 on 26 Nov". */
  readonly beforeWords?: string;
  /** How it went; absent while it is still to come, or where there is none. */
  readonly trend?: Trend;
}

/** A number, and how it stands against the period before. */
export const card = ofOne<CardPane, CardBody>({
  forReaders: ({ behind: _, ...pane }) => pane,
  ask: askCard,
  headline: ({ now, measure }, clock) => formatCell(now, measure, clock),
  sentence: ({ measure, against, trend, behind }, { which, field, measure: measured }) => [
    { text: 'Show ' },
    measured(measure),
    ...which(''),
    { text: against === 'none' ? ', ' : ', compared with ' },
    {
      slot: 'against',
      text: {
        none: 'without a comparison',
        whole: 'the period before',
        sameTime: 'the same time in the period before',
      }[against],
    },
    { text: ', ' },
    {
      slot: 'trend',
      text: trend
        ? `with its trend over ${trend.count} ${trend.unit}s of ${field(trend.field)}`
        : 'without its trend',
    },
    { text: '.' },
    ...behindParts(behind, field),
  ],
  questions: [
    {
      ask: 'how many',
      words: 'How many?',
      leads: 'A number, against the period before',
      size: { w: 3, h: 4 },
    },
  ],
  suggest: (_, { dataSet, time, measure, behind }) => ({
    kind: 'card',
    title: capital(dataSet.noun.many),
    measure,
    against: time ? 'sameTime' : 'none',
    ...(time ? { trend: { field: time.name, unit: 'day', count: 14 } } : {}),
    behind,
  }),
  propose: proposeCards,
});

/** Now and before in one question: each is the measure over its own span, of the records of either. */
function askCard(pane: CardPane, { dataSet, from, applied, clock }: OneContext): OnePlan<CardBody> {
  const measure = measureOf(dataSet, pane.measure);
  const planned = plannedMeasure(measure, dataSet, clock);
  const shown = shownMeasure(measure, dataSet.fields);
  const groups = (where: Filter, measures: PlannedMeasure[]): GroupsPlan => ({
    kind: 'groups',
    from,
    zone: clock.zone,
    where,
    by: [],
    measures,
    order: [],
    limit: 1,
  });
  const about = periodOfCard(applied);
  // A comparison is fair only where both periods are whole under every other condition; so is a trend.
  const others = applied.filter((each) => each !== about);
  const isFair = !others.some((each) => each.isTimed);
  const trendField = pane.trend && dataSet.fields.find(({ name }) => name === pane.trend?.field);
  const trend =
    pane.trend && trendField && isFair
      ? askTrend(
          pane.trend,
          trendField,
          {
            about: about?.period ? resolvePeriod(about.period.period, clock) : null,
            others: others.map(({ filter }) => filter),
            planned,
          },
          { from, clock },
        )
      : null;
  const asking = (plan: GroupsPlan, shape: (now: Cell, before: Cell) => CardBody): OnePlan<CardBody> => ({
    first: { numbers: { plan } },
    // The number is what a person waits for.
    ...(trend ? { after: () => ({ ask: { trend: { plan: trend.plan } }, isShown: true }) } : {}),
    shape: ({ records: { numbers = [], trend: went } }) => {
      const [now = null, before = null] = numbers[0] ?? [];
      return { ...shape(now, before), ...(trend && went ? { trend: trend.shape(went) } : {}) };
    },
    number: ({ before }) => {
      const which = plan.measures[before ? 1 : 0];
      return which ? { plan, planned: which, measure, words: '' } : null;
    },
  });
  const field = about?.period && dataSet.fields.find(({ name }) => name === about.period?.field);
  const spans = about?.period ? cardSpans(pane, about.period.period, clock) : null;
  if (!field || !spans || !isFair)
    return asking(groups(allOf(applied.map(({ filter }) => filter)), [planned]), (now) => ({
      kind: 'card',
      measure: shown,
      now,
    }));
  const now: Filter = { field: field.name, test: withinSpan(field, spans.now) };
  const before: Filter = { field: field.name, test: withinSpan(field, spans.before) };
  const during = (name: string, when: Filter): PlannedMeasure => ({
    ...planned,
    name,
    where: allOf([planned.where, when]),
  });
  // From the first of one to the last of the other, which engines find quickly; and where there is something in between, without that.
  const { from: begin, fromDay } = spans.before;
  const around: Filter = {
    field: field.name,
    test: withinSpan(field, { ...spans.now, from: begin, fromDay }),
  };
  const where = allOf([
    ...others.map(({ filter }) => filter),
    around,
    ...(spans.isPartial ? [{ any: [now, before] }] : []),
  ]);
  return asking(groups(where, [during('now', now), during('before', before)]), (value, was) => ({
    kind: 'card',
    measure: shown,
    now: value,
    before: was,
    nowWords: spanWords(spans.now, clock),
    beforeWords: spans.isPartial ? partialWords(spans.before, clock) : spanWords(spans.before, clock),
  }));
}

/** A stretch that ends within a day: "by 15:53 on 26 Nov", "1 Oct to 15:53 on 27 Oct". */
function partialWords({ from, to }: Span, clock: Clock): string {
  if (!from || !to) return '';
  const { zone } = clock;
  const thisYear = dayOf(clock.now, zone).slice(0, 4);
  const [first, last] = [dayOf(from, zone), dayOf(to, zone)];
  const until = `${formatMoment(to.toISOString(), zone, 'time')} on ${dayWords(last, thisYear)}`;
  return first === last ? `by ${until}` : `${dayWords(first, thisYear)} to ${until}`;
}
