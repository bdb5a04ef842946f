import { oneUse } from '../../use-of-one.ts';
import type { CardPane } from './schema.ts';

export const card = oneUse<CardPane>(({ measure, trend, behind = [] }) => ({
  follows: 'scope',
  fields: [...behind, ...(trend ? [trend.field] : [])],
  measures: [measure],
  shows: () => behind,
  hasNumbers: true,
}));
