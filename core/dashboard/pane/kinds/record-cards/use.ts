import { keyAndTitle } from '#core/dataset/naming.ts';
import { oneUse } from '../../use-of-one.ts';
import type { RecordCardsPane } from './schema.ts';

/** The fields that stand on a card. */
export const cardFields = ({ fields, picture }: RecordCardsPane): string[] => [
  ...new Set([...fields, ...(picture === undefined ? [] : [picture])]),
];

export const recordCards = oneUse<RecordCardsPane>((pane) => {
  const shown = cardFields(pane);
  return {
    follows: 'scope',
    fields: [...shown, ...pane.order.map(({ by }) => by)],
    measures: [],
    shows: (dataSet) => [...shown, ...keyAndTitle(dataSet)],
    hasNumbers: false,
    lists: shown,
    actions: pane.actions,
    inPlace: pane.inPlace,
  };
});
