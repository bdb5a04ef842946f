import { oneUse } from '../../use-of-one.ts';
import type { CardPane } from './schema.ts';

export const card = oneUse<CardPane>(({ measure, behind = [] }) => ({
  follows: 'scope',
  fields: behind,
  measures: [measure],
  shows: () => behind,
  hasNumbers: true,
}));
