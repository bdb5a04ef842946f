import { allOf } from '#core/plan/plan.ts';
import type { Applied, PaneAnswers, PaneContext, PaneQuestions, UsedRecords } from './kind.ts';
import type { Loosen } from './shown.ts';

/* For a pane that shows nothing: what each narrowing, taken off by itself, would bring back. */

const candidates = ({ applied }: UsedRecords): Applied[] =>
  applied.filter(({ from }) => from === 'clause' || from === 'own' || from === 'focus');
const nameOf = (at: number): string => `without ${at}`;

/** How many records there would be without each of what a reader has chosen. */
export const looseQuestions = (asks: UsedRecords & Pick<PaneContext, 'clock'>): PaneQuestions =>
  Object.fromEntries(
    candidates(asks).map((one, at) => {
      const where = allOf(asks.applied.filter((each) => each !== one).map(({ filter }) => filter));
      const count = {
        kind: 'records' as const,
        from: asks.from,
        zone: asks.clock.zone,
        where,
        fields: [],
        order: [],
        offset: 0,
        limit: 1,
      };
      return [nameOf(at), { count }];
    }),
  );

export const loosen = (asks: UsedRecords, { counts }: PaneAnswers): Loosen[] =>
  candidates(asks).flatMap((one, at) => {
    const count = counts[nameOf(at)];
    return count === undefined || count === '0' ? [] : [{ ...asks.wordsOf(one), count }];
  });
