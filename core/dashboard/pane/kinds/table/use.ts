import { keyAndTitle } from '#core/dataset/naming.ts';
import { oneUse } from '../../use-of-one.ts';
import type { TablePane } from './schema.ts';

/** The fields that readers see as columns. */
export const shownColumns = ({ columns }: TablePane): string[] =>
  columns.filter(({ hidden }) => !hidden).map(({ field }) => field);

export const table = oneUse<TablePane>((pane) => {
  const shown = shownColumns(pane);
  const grouped = (pane.groups ?? []).map(({ field }) => field);
  return {
    follows: 'scope',
    fields: [...pane.columns.map(({ field }) => field), ...pane.order.map(({ by }) => by), ...grouped],
    measures: [],
    shows: (dataSet) => [...shown, ...grouped, ...keyAndTitle(dataSet)],
    hasNumbers: false,
    lists: shown,
    actions: pane.actions,
    inPlace: pane.inPlace,
  };
});
