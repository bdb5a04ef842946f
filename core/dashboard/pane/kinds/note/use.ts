import type { PaneUse } from '../../use.ts';
import type { NotePane } from './schema.ts';

/** Each value is of records of its own. */
export const note = ({ values }: NotePane): readonly PaneUse[] =>
  values.map(({ dataSet, subset, keeping, when, waitsFor, measure, most, behind = [] }) => {
    const fields = [...(most === undefined ? [] : [most]), ...behind];
    return {
      dataSet,
      subset,
      keeping,
      when,
      waitsFor,
      follows: 'scope',
      fields,
      measures: [measure],
      shows: () => fields,
      hasNumbers: true,
    };
  });
