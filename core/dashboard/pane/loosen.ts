import { allOf, type RecordsPlan } from '#core/plan/plan.ts';
import type { Applied, PaneAnswers, PaneQuestions, UsedRecords } from './kind.ts';
import type { Loosen } from './shown.ts';

/* For a pane that shows nothing: what each narrowing, taken off by itself, would bring back. */

const candidates = ({ applied }: UsedRecords): Applied[] =>
  applied.filter(({ from }) => from === 'clause' || from === 'own' || from === 'focus');
const nameOf = (at: number): string => `without ${at}`;

/** How many records there would be without each of what a reader has chosen. */
export const looseQuestions = (plan: RecordsPlan, asks: UsedRecords): PaneQuestions =>
  Object.fromEntries(
    candidates(asks).map((one, at) => {
      const where = allOf(asks.applied.filter((each) => each !== one).map(({ filter }) => filter));
      return [nameOf(at), { count: { ...plan, where } }];
    }),
  );

export const loosen = (asks: UsedRecords, { counts }: PaneAnswers): Loosen[] =>
  candidates(asks).flatMap((one, at) => {
    const count = counts[nameOf(at)];
    return count === undefined || count === '0' ? [] : [{ ...asks.wordsOf(one), count }];
  });
