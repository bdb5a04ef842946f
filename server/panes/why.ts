import pMap from 'p-map';
import { appliedTo, relationOf } from '#core/dashboard/flow/applies.ts';
import { ask } from '#core/dashboard/flow/ask.ts';
import type { Context } from '#core/dashboard/flow/context.ts';
import type { Applied, PaneQuestion } from '#core/dashboard/pane/kind.ts';
import type { Pane } from '#core/dashboard/pane/schema.ts';
import { usesOf } from '#core/dashboard/pane/uses.ts';
import { allOf, type RecordsPlan } from '#core/plan/plan.ts';
import { compile } from '#core/sql/compile.ts';
import { postgres } from '#core/sql/dialect/postgres/dialect.ts';
import { type Problem, problemOf } from '#core/value/problem/problem.ts';
import { conditionWords } from '#core/words/condition.ts';
import { placeOf } from '../records/place.ts';
import { countRecords, runPlan } from '../records/run.ts';
import { findSource } from '../store/sources.ts';

/* Why a pane shows what it shows: how many records each condition left, and what was asked where. For those who build. */

/** One condition on what a pane uses, and how many records it and those before it leave. */
export interface WhyCondition {
  /** Where it comes from. */
  readonly from: string;
  readonly words: string;
  /** Exact text; null where it could not be counted. */
  readonly left: string | null;
}

export interface WhyUse {
  readonly dataSetId: string;
  readonly many: string;
  /** Records before any of the conditions; null where they could not be counted. */
  readonly all: string | null;
  readonly conditions: readonly WhyCondition[];
  readonly problem: Problem | null;
}

/** One question to the records. */
export interface WhyQuestion {
  /** What the pane calls it. */
  readonly name: string;
  /** In words: at the source, from kept records, fetched. */
  readonly where: string;
  /** ISO 8601: when what it was answered from was true; null for counts, and where it failed. */
  readonly trueAt: string | null;
  /** Milliseconds. */
  readonly took: number;
  /** How many lines the answer has. */
  readonly lines: number | null;
  /** What the source was asked, where it was asked in SQL. */
  readonly sql: string | null;
  readonly problem: Problem | null;
}

export interface Why {
  readonly title: string;
  readonly uses: readonly WhyUse[];
  readonly questions: readonly WhyQuestion[];
  /** What it waits for; null where it waits for nothing. */
  readonly waitsFor: string | null;
}

const atOnce = 3;

const origins: Readonly<Record<Applied['from'], string>> = {
  dataSet: 'of the data set or its subset',
  pane: 'of the pane',
  period: 'the pane’s own period',
  clause: 'a reader filter',
  own: 'a clause of the reader’s own',
  focus: 'what is looked at',
};

async function whyUse(
  use: ReturnType<typeof usesOf>[number],
  context: Context,
  signal: AbortSignal,
): Promise<WhyUse | null> {
  const dataSet = context.dataSets.get(use.dataSet);
  if (!dataSet) return null;
  const doing = `counting ${dataSet.noun.many}`;
  const applied = appliedTo(use, dataSet, context);
  const said = applied.map(({ from, condition }) => ({
    from: origins[from],
    words:
      condition === null ? 'that belongs to it' : conditionWords(condition, dataSet.fields, context.clock),
  }));
  const shared = { dataSetId: use.dataSet, many: dataSet.noun.many };
  try {
    const { relation } = relationOf(dataSet, context);
    const counts = await pMap(
      [0, ...applied.map((_, at) => at + 1)],
      async (many) => {
        const plan: RecordsPlan = {
          kind: 'records',
          from: relation,
          where: allOf(applied.slice(0, many).map(({ filter }) => filter)),
          zone: context.clock.zone,
          fields: [],
          order: [],
          offset: 0,
          limit: 0,
        };
        return countRecords(plan, { doing, signal });
      },
      { concurrency: atOnce },
    );
    return {
      ...shared,
      all: counts[0] ?? null,
      conditions: said.map((each, at) => ({ ...each, left: counts[at + 1] ?? null })),
      problem: null,
    };
  } catch (thrown) {
    return {
      ...shared,
      all: null,
      conditions: said.map((each) => ({ ...each, left: null })),
      problem: problemOf(thrown, doing),
    };
  }
}

async function whyQuestion(name: string, question: PaneQuestion, signal: AbortSignal): Promise<WhyQuestion> {
  const doing = 'asking for the pane';
  const plan = 'plan' in question ? question.plan : question.count;
  const started = performance.now();
  const base = { name, where: 'nowhere', trueAt: null, took: 0, lines: null, sql: null, problem: null };
  try {
    const place = await placeOf(plan, {});
    const source = await findSource(plan.from.source);
    const at = source?.name ?? 'a source that no longer exists';
    const where =
      place.kind === 'live'
        ? `worked out by ${at} itself`
        : place.isKept
          ? 'worked out here, from kept records'
          : `fetched from ${at}, and worked out here`;
    const sql = place.kind === 'live' ? compile(plan, postgres).text : null;
    if ('count' in question) {
      const count = await countRecords(question.count, { doing, signal });
      return {
        ...base,
        name: `${name}: how many`,
        where,
        sql,
        took: performance.now() - started,
        lines: Number(count),
      };
    }
    const { records, trueAt, took } = await runPlan(plan, { doing, signal });
    return { ...base, where, sql, trueAt, took, lines: records.length };
  } catch (thrown) {
    return { ...base, took: performance.now() - started, problem: problemOf(thrown, doing) };
  }
}

/** Why a pane shows what it shows, in the scope of a context. Asks each of its questions once, and counts after each condition. */
export async function whyPane(pane: Pane, context: Context, signal: AbortSignal): Promise<Why> {
  const asked = ask(pane, context);
  const [uses, questions] = await Promise.all([
    pMap(usesOf(pane), (use) => whyUse(use, context, signal), { concurrency: atOnce }),
    asked.state === 'waiting'
      ? []
      : pMap(Object.entries(asked.first), ([name, question]) => whyQuestion(name, question, signal), {
          concurrency: atOnce,
        }),
  ]);
  return {
    title: pane.title,
    uses: uses.filter((use) => use !== null),
    questions,
    waitsFor: asked.state === 'waiting' ? asked.choose : null,
  };
}
