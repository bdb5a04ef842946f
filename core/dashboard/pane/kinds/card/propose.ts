import type { Condition } from '#core/ask/condition/schema.ts';
import { capital } from '#core/words/capital.ts';
import type { Proposal, ProposalContext } from '../../kind.ts';
import type { CardPane } from './schema.ts';

const mostCards = 4;

/** The numbers of a first dashboard: how many, what is not settled, what is overdue, and what the analyst measures. */
export function proposeCards({
  dataSetId: dataSet,
  dataSet: { noun, measures },
  time,
  measure,
  open,
  due,
  behind,
}: ProposalContext): Proposal<CardPane>[] {
  const card = (
    title: string,
    more: Partial<CardPane> & Pick<CardPane, 'measure'>,
  ): Proposal<CardPane>['pane'] => ({ kind: 'card', title, dataSet, against: 'none', behind, ...more });
  const trend = time ? { trend: { field: time.name, unit: 'day' as const, count: 14 } } : {};
  const compared = time ? { against: 'sameTime' as const, ...trend } : {};
  // What the analyst measures already is not proposed twice.
  const measured = (where: Condition): string =>
    measures.find((each) => JSON.stringify(each.where) === JSON.stringify(where))?.name ?? measure;
  const kept = (name: string, where: Condition): Pick<CardPane, 'measure' | 'keeping'> =>
    name === measure ? { measure, keeping: where } : { measure: name };
  const overdue: Condition | null =
    due && open
      ? { all: [open, { field: due.name, test: { op: 'during', period: { kind: 'past' } } }] }
      : null;
  const cards = [
    card(capital(noun.many), { measure, ...compared }),
    ...(open
      ? [card(`${capital(noun.many)} not settled`, { when: 'any', ...kept(measured(open), open) })]
      : []),
    ...(overdue
      ? [card(`${capital(noun.many)} overdue`, { when: 'any', ...kept(measured(overdue), overdue) })]
      : []),
  ];
  const others = measures
    .filter(({ name }) => cards.every((each) => each.measure !== name))
    .map(({ name, label }) => card(capital(label), { measure: name, ...compared }));
  // Beside what is due first there is room for one less.
  return [...cards, ...others]
    .slice(0, overdue ? mostCards - 1 : mostCards)
    .map((pane) => ({ pane, size: { w: 3, h: 4 }, part: 'numbers' }));
}
