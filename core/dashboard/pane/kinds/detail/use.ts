import { keyAndTitle } from '#core/dataset/naming.ts';
import { oneUse } from '../../use-of-one.ts';
import type { DetailPane } from './schema.ts';

export const detail = oneUse<DetailPane>(({ fields, actions, inPlace }) => ({
  follows: 'picks',
  fields,
  measures: [],
  shows: (dataSet) => [...fields, ...keyAndTitle(dataSet)],
  hasNumbers: false,
  actions,
  inPlace,
}));
