import type { DataSet } from '#core/dataset/schema.ts';
import { ofOne } from '../../of-one.ts';
import type { NewRecordPane } from './schema.ts';

export interface NewRecordBody {
  readonly kind: 'new-record';
  readonly noun: DataSet['noun'];
}

/** The actions of a data set by which a record is added. */
export const addingActions = ({ changes }: Pick<DataSet, 'changes'>) =>
  (changes?.actions ?? []).filter(({ way }) => way === 'insert');

/** A form that adds a record; it starts with what is picked and filtered. */
export const newRecord = ofOne<NewRecordPane, NewRecordBody>({
  forReaders: (pane) => pane,
  ask: (_, { dataSet: { noun } }) => ({ first: {}, shape: () => ({ kind: 'new-record', noun }) }),
  sentence: ({ action }, { dataSet }) => {
    const found = addingActions(dataSet).find(({ name }) => name === action);
    return [
      { text: `Ask for what a new ${dataSet.noun.one} needs, and add it: ` },
      { slot: 'action', text: found ? `“${found.label}”` : 'choose how' },
      { text: '.' },
    ];
  },
  questions: [
    { ask: 'add one', words: 'What is new?', leads: 'A form that adds a record', size: { w: 4, h: 11 } },
  ],
  suggest: (_, { dataSet }) => ({
    kind: 'new-record',
    title: `A new ${dataSet.noun.one}`,
    action: addingActions(dataSet)[0]?.name ?? '',
  }),
  propose: () => [],
});
