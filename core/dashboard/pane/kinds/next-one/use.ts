import { keyAndTitle } from '#core/dataset/naming.ts';
import { oneUse } from '../../use-of-one.ts';
import type { NextOnePane } from './schema.ts';

export const nextOne = oneUse<NextOnePane>(({ fields, order }) => ({
  follows: 'scope',
  fields: [...fields, ...order.map(({ by }) => by)],
  measures: [],
  shows: (dataSet) => [...fields, ...keyAndTitle(dataSet)],
  hasNumbers: false,
}));
