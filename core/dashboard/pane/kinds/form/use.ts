import { keyAndTitle } from '#core/dataset/naming.ts';
import { oneUse } from '../../use-of-one.ts';
import type { FormPane } from './schema.ts';

export const form = oneUse<FormPane>(({ about, action }) => ({
  ...(about === 'new'
    ? { follows: 'scope' as const, shows: () => [] }
    : { follows: 'picks' as const, shows: keyAndTitle }),
  fields: [],
  measures: [],
  hasNumbers: false,
  ...(action === '' ? {} : { actions: [action] }),
}));
