import { ask } from '#core/dashboard/flow/ask.ts';
import type { Context } from '#core/dashboard/flow/context.ts';
import type { PaneAnswers, PaneQuestions } from '#core/dashboard/pane/kind.ts';
import type { PaneResult } from '#core/dashboard/pane/result.ts';
import type { Pane } from '#core/dashboard/pane/schema.ts';
import { problemOf } from '#core/value/problem/problem.ts';
import type { Asking } from '../records/place.ts';
import { countRecords, runPlan } from '../records/run.ts';

export interface RunPane {
  readonly pane: Pane;
  readonly context: Context;
  readonly signal?: AbortSignal | undefined;
  /** Given a result that is good to show though something of it, such as a total, is still to come. */
  readonly onPartial?: ((result: PaneResult) => void) | undefined;
}

/** Asks for a pane and shapes the answers. Never throws: what fails is a result of its own, so the other panes go on. */
export async function runPane({ pane, context, signal, onPartial }: RunPane): Promise<PaneResult> {
  const doing = `reading “${pane.title || 'an untitled pane'}”`;
  try {
    const question = ask(pane, context);
    if (question.state === 'waiting') return question;
    const asking: Asking = { doing, signal };
    const first = await answered(question.first, asking);
    const ready = (answers: PaneAnswers) => ({
      state: 'ready' as const,
      body: question.shape(answers),
      trueAt: first.trueAt ?? context.clock.now.toISOString(),
      took: first.took,
    });
    const later = question.after?.(first);
    if (!later || Object.keys(later.ask).length === 0) return ready(first);
    if (later.isShown) onPartial?.({ ...ready(first), isPartial: true });
    const more = await answered(later.ask, asking);
    return ready({
      records: { ...first.records, ...more.records },
      counts: { ...first.counts, ...more.counts },
    });
  } catch (thrown) {
    return { state: 'failed', problem: problemOf(thrown, doing) };
  }
}

interface Answered extends PaneAnswers {
  /** The oldest moment at which any of the records was true; null where none was asked for. */
  readonly trueAt: string | null;
  /** Milliseconds, of the slowest. */
  readonly took: number;
}

/** The answers to several questions, asked at once. */
async function answered(questions: PaneQuestions, asking: Asking): Promise<Answered> {
  const records: Record<string, PaneAnswers['records'][string]> = {};
  const counts: Record<string, string> = {};
  const moments: string[] = [];
  let longest = 0;
  await Promise.all(
    Object.entries(questions).map(async ([name, question]) => {
      if ('count' in question) {
        counts[name] = await countRecords(question.count, asking);
        return;
      }
      const answer = await runPlan(question.plan, asking);
      records[name] = answer.records;
      moments.push(answer.trueAt);
      longest = Math.max(longest, answer.took);
    }),
  );
  return { records, counts, trueAt: moments.sort()[0] ?? null, took: longest };
}
