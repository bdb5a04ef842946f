import { oneUse } from '../../use-of-one.ts';
import type { NewRecordPane } from './schema.ts';

export const newRecord = oneUse<NewRecordPane>(({ action }) => ({
  follows: 'scope',
  fields: [],
  measures: [],
  shows: () => [],
  hasNumbers: false,
  ...(action === '' ? {} : { actions: [action] }),
}));
