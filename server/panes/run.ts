import type { DataSet } from '#core/dataset/schema.ts';
import type { Field } from '#core/field/field.ts';
import { type Cell, labelOf } from '#core/field/value.ts';
import { appliedTo } from '#core/flow/applies.ts';
import type { Context } from '#core/flow/context.ts';
import { formatMoment } from '#core/format/format.ts';
import { measureOf } from '#core/measure/plan.ts';
import { type Asked, ask, columnLabel } from '#core/pane/ask.ts';
import type { ChartBody, Loosen, PaneBody, PaneResult, TableBody } from '#core/pane/result.ts';
import type { Pane } from '#core/pane/schema.ts';
import { type ShownField, shapeChart, shownMeasure } from '#core/pane/shape.ts';
import { dayOf, type Span } from '#core/period/period.ts';
import { allOf, type RecordsPlan } from '#core/plan/plan.ts';
import { problemOf } from '#core/problem/problem.ts';
import { conditionWords } from '#core/words/condition.ts';
import { daysWords, dayWords } from '#core/words/period.ts';
import { clauseWords } from '#core/words/scope.ts';
import { type Asking, countRecords, runPlan } from '../records.ts';

export interface RunPane {
  readonly pane: Pane;
  readonly context: Context;
  readonly signal?: AbortSignal | undefined;
  /** Given a result that is good to show though something of it, such as a total, is still to come. */
  readonly onPartial?: ((result: PaneResult) => void) | undefined;
}

/** Asks for a pane and shapes the answer. Never throws: what fails is a result of its own, so the other panes go on. */
export async function runPane({ pane, context, signal, onPartial }: RunPane): Promise<PaneResult> {
  const doing = `reading “${pane.title || 'an untitled pane'}”`;
  try {
    const asked = ask(pane, context);
    if (asked.state === 'waiting') return asked;
    const dataSet = context.dataSets.get(pane.dataSet);
    if (!dataSet) throw new Error('a plan without a data set');
    const asking: Asking = { doing, signal };
    return await answer(asked, { pane, dataSet, context, asking, onPartial });
  } catch (thrown) {
    return { state: 'failed', problem: problemOf(thrown, doing) };
  }
}

interface Answering {
  readonly pane: Pane;
  readonly dataSet: DataSet;
  readonly context: Context;
  readonly asking: Asking;
  readonly onPartial?: RunPane['onPartial'];
}

async function answer(asked: Exclude<Asked, { state: 'waiting' }>, about: Answering): Promise<PaneResult> {
  const { asking } = about;
  if (asked.state === 'table') return answerTable(asked.plan, asked.page, about);
  const { records, trueAt, took } = await runPlan(asked.plan, asking);
  const ready = (body: PaneBody): PaneResult => ({ state: 'ready', body, trueAt, took });
  switch (asked.state) {
    case 'card':
      return ready(cardBody(asked, records, about));
    case 'chart':
      return ready(await chartBody(asked, records, about));
    case 'detail':
      return ready(detailBody(asked.plan, records, about));
  }
}

function cardBody(
  { spans }: Extract<Asked, { state: 'card' }>,
  records: Cell[][],
  { pane, dataSet, context }: Answering,
): PaneBody {
  if (pane.kind !== 'card') throw new Error('not a card');
  const measure = shownMeasure(measureOf(dataSet, pane.measure), dataSet.fields);
  const [now = null, before = null] = records[0] ?? [];
  if (!spans) return { kind: 'card', measure, now };
  return {
    kind: 'card',
    measure,
    now,
    before,
    nowWords: spanWords(spans.now, context),
    beforeWords: spans.isPartial ? partialWords(spans.before, context) : spanWords(spans.before, context),
  };
}

/** A stretch that ends within a day: "by 15:53 on 26 Nov", "1 Oct to 15:53 on 27 Oct". */
function partialWords({ from, to }: Span, { clock }: Context): string {
  if (!from || !to) return '';
  const { zone } = clock;
  const thisYear = dayOf(clock.now, zone).slice(0, 4);
  const [first, last] = [dayOf(from, zone), dayOf(to, zone)];
  const until = `${formatMoment(to.toISOString(), zone, 'time')} on ${dayWords(last, thisYear)}`;
  return first === last ? `by ${until}` : `${dayWords(first, thisYear)} to ${until}`;
}

function spanWords({ from, to }: Span, { clock }: Context): string {
  if (!from || !to) return '';
  const { zone } = clock;
  const last = dayOf(new Date(to.getTime() - 1), zone);
  const after = new Date(Date.parse(`${last}T00:00:00Z`) + 86_400_000).toISOString().slice(0, 10);
  return daysWords(dayOf(from, zone), after, dayOf(clock.now, zone).slice(0, 4));
}

export const shownField = (field: Field, label = labelOf(field)): ShownField => ({
  name: field.name,
  type: field.type,
  label,
  ...(field.unit === undefined ? {} : { unit: field.unit }),
  ...(field.format === undefined ? {} : { format: field.format }),
  ...(field.states === undefined ? {} : { states: field.states }),
  ...(field.description === undefined ? {} : { description: field.description }),
});

/** A field of a data set by name; one that has gone is text. */
export function fieldOf(dataSet: DataSet, name: string): Field {
  return dataSet.fields.find((field) => field.name === name) ?? { name, type: 'text' };
}

async function chartBody(
  asked: Extract<Asked, { state: 'chart' }>,
  records: Cell[][],
  about: Answering,
): Promise<ChartBody> {
  const { pane, dataSet } = about;
  if (pane.kind !== 'chart') throw new Error('not a chart');
  const body: ChartBody = {
    kind: 'chart',
    measure: shownMeasure(measureOf(dataSet, pane.measure), dataSet.fields),
    by: {
      ...shownField(fieldOf(dataSet, pane.by.field)),
      ...(pane.by.unit ? { unit: pane.by.unit } : {}),
    } as ChartBody['by'],
    ...(pane.split === undefined ? {} : { split: shownField(fieldOf(dataSet, pane.split)) }),
    data: shapeChart(pane, asked.plan, records, asked.span, {
      states: {
        by: fieldOf(dataSet, pane.by.field).states,
        split: pane.split === undefined ? undefined : fieldOf(dataSet, pane.split).states,
      },
      now: about.context.clock.now,
    }),
    noun: dataSet.noun.many,
  };
  if (records.length > 0) return body;
  const { from, zone, where } = asked.plan;
  return {
    ...body,
    loosen: await loosenings(
      { kind: 'records', from, zone, where, fields: [], order: [], offset: 0, limit: 1 },
      about,
    ),
  };
}

function detailBody(plan: RecordsPlan, records: Cell[][], { dataSet }: Answering): PaneBody {
  const titleAt = dataSet.title === undefined ? -1 : plan.fields.indexOf(dataSet.title);
  const [record = null] = records;
  return {
    kind: 'detail',
    fields: plan.fields.map((name) => shownField(fieldOf(dataSet, name))),
    record,
    title: record && titleAt >= 0 ? String(record[titleAt] ?? '') : null,
    noun: dataSet.noun,
  };
}

async function answerTable(plan: RecordsPlan, page: number, about: Answering): Promise<PaneResult> {
  const { pane, dataSet, asking, onPartial } = about;
  const labels = new Map(pane.kind === 'table' ? pane.columns.map((column) => [column.field, column]) : []);
  const { records, trueAt, took } = await runPlan(plan, asking);
  const body: TableBody = {
    kind: 'table',
    fields: plan.fields.map((name) => {
      const column = labels.get(name);
      const field = shownField(fieldOf(dataSet, name), column && columnLabel(dataSet, column));
      return column?.format ? { ...field, format: column.format } : field;
    }),
    records,
    total: plan.offset === 0 && records.length < plan.limit ? String(records.length) : null,
    page,
    noun: dataSet.noun,
  };
  const ready = (more: Partial<TableBody>): PaneResult => ({
    state: 'ready',
    body: { ...body, ...more },
    trueAt,
    took,
  });
  if (body.total === '0') return ready({ loosen: await loosenings(plan, about) });
  if (body.total !== null) return ready({});
  // The page is what a person waits for; counting comes after it, so as not to slow it down.
  onPartial?.(ready({}));
  return ready({ total: await countRecords(plan, asking) });
}

/** For a pane that shows nothing: what each narrowing, taken off by itself, would bring back. */
async function loosenings(
  plan: RecordsPlan,
  { pane, dataSet, context, asking }: Answering,
): Promise<Loosen[]> {
  const applied = appliedTo(pane, dataSet, context);
  const candidates = applied.filter(({ from }) => from === 'clause' || from === 'own' || from === 'focus');
  const counted = await Promise.all(
    candidates.map(async (one): Promise<Loosen> => {
      const where = allOf(applied.filter((each) => each !== one).map(({ filter }) => filter));
      const count = await countRecords({ ...plan, where }, asking);
      const clause = context.dashboard.scope.find(({ name }) => name === one.name);
      const test = one.condition && 'field' in one.condition ? one.condition.test : null;
      const words = clause
        ? `${clause.lead ?? ''} ${clauseWords(clause, test, context.dataSets.get(clause.dataSet), context.clock)}`.trim()
        : one.condition
          ? conditionWords(one.condition, dataSet.fields, context.clock)
          : 'what is being looked at';
      return { words, count, ...(clause ? { name: clause.name } : {}) };
    }),
  );
  return counted.filter(({ count }) => count !== '0');
}
