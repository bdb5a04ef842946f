import type { Action } from '#core/dataset/change/schema.ts';
import { keyAndTitle } from '#core/dataset/naming.ts';
import type { DataSet } from '#core/dataset/schema.ts';
import { cellText } from '#core/value/field/value.ts';
import type { SuggestionContext, Unplaced } from '../../kind.ts';
import { type OneContext, type OnePlan, ofOne } from '../../of-one.ts';
import { pickedRecord } from '../../picked-record.ts';
import type { FormPane } from './schema.ts';

/** A record that a form is filled in for. */
export interface FormRecord {
  readonly key: string;
  readonly title: string;
}

export interface FormBody {
  readonly kind: 'form';
  readonly noun: DataSet['noun'];
  /** Null: there is no such record any more. */
  readonly about: 'new' | FormRecord | null;
}

/** The actions of a data set that a form can be about. */
export const formActions = ({ changes }: Pick<DataSet, 'changes'>): Action[] =>
  (changes?.actions ?? []).filter(
    ({ way, sets }) => way === 'insert' || (way === 'update' && sets.some(({ to }) => to.kind === 'ask')),
  );

export const aboutOf = ({ way }: Pick<Action, 'way'>): FormPane['about'] =>
  way === 'insert' ? 'new' : 'picked';

/** A form that adds a record, which starts with what is picked and filtered; or one that changes the record that is picked. */
export const form = ofOne<FormPane, FormBody>({
  forReaders: (pane) => pane,
  ask: (pane, context) => (pane.about === 'new' ? newPlan(context) : pickedPlan(context)),
  sentence: ({ about, action }, { dataSet, pickWords }) => {
    const found = formActions(dataSet).find(({ name }) => name === action);
    return [
      {
        text:
          about === 'new'
            ? `Ask for what a new ${dataSet.noun.one} needs, and add it: `
            : `Ask what to change of the ${pickWords}, and send it: `,
      },
      { slot: 'action', text: found ? `“${found.label}”` : 'choose how' },
      { text: '.' },
    ];
  },
  questions: [
    { ask: 'add one', words: 'What is new?', leads: 'A form that adds a record', size: { w: 4, h: 11 } },
    {
      ask: 'change one',
      words: 'What has changed of this one?',
      leads: 'A form that changes the picked record',
      size: { w: 4, h: 11 },
    },
  ],
  suggest: suggestForm,
  propose: () => [],
});

function suggestForm(ask: string, { dataSet }: SuggestionContext): Omit<Unplaced<FormPane>, 'dataSet'> {
  const about = ask === 'add one' ? 'new' : 'picked';
  const action = formActions(dataSet).find((each) => aboutOf(each) === about);
  return {
    kind: 'form',
    title: about === 'new' ? `A new ${dataSet.noun.one}` : `Change the ${dataSet.noun.one}`,
    about,
    action: action?.name ?? '',
  };
}

const newPlan = ({ dataSet: { noun } }: OneContext): OnePlan<FormBody> => ({
  first: {},
  shape: () => ({ kind: 'form', noun, about: 'new' }),
});

function pickedPlan(context: OneContext): OnePlan<FormBody> {
  const { dataSet } = context;
  const fields = keyAndTitle(dataSet);
  return {
    first: { record: pickedRecord(context, fields) },
    shape: ({ records }) => {
      const [record] = records.record ?? [];
      const text = (name: string | undefined): string | null =>
        name === undefined ? null : cellText(record?.[fields.indexOf(name)] ?? null);
      const key = text(dataSet.key);
      return {
        kind: 'form',
        noun: dataSet.noun,
        about: key === null ? null : { key, title: text(dataSet.title) ?? key },
      };
    },
  };
}
