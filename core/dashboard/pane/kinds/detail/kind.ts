import { keyAndTitle } from '#core/dataset/naming.ts';
import { listWords } from '#core/words/condition.ts';
import type { SuggestionContext, Unplaced } from '../../kind.ts';
import { type OneContext, type OnePlan, ofOne } from '../../of-one.ts';
import { pickedRecord } from '../../picked-record.ts';
import { fieldOf, type ShownRecord, shownField } from '../../shown.ts';
import type { DetailPane } from './schema.ts';

export interface DetailBody extends ShownRecord {
  readonly kind: 'detail';
}

/** One record, the one that is picked, with all that matters on it. */
export const detail = ofOne<DetailPane, DetailBody>({
  forReaders: (pane) => pane,
  ask: askDetail,
  sentence: ({ fields }, { pickWords, field }) => [
    { text: `Show the ${pickWords}: ` },
    { slot: 'fields', text: listWords(fields.map(field)) },
    { text: '.' },
  ],
  questions: [
    { ask: 'what about', words: 'What about this one?', leads: 'One record in full', size: { w: 4, h: 11 } },
  ],
  suggest: (_, from) => suggestDetail(from),
  // Of what has no key no record can be picked.
  propose: (from) =>
    from.dataSet.key === undefined
      ? []
      : [
          {
            pane: { ...suggestDetail(from), dataSet: from.dataSetId },
            size: { w: 4, h: 12 },
            part: 'records',
          },
        ],
});

const suggestDetail = ({
  dataSet,
  visibleFields,
}: SuggestionContext): Omit<Unplaced<DetailPane>, 'dataSet'> => ({
  kind: 'detail',
  title: `The ${dataSet.noun.one}`,
  fields: visibleFields.slice(0, 16).map(({ name }) => name),
});

function askDetail(pane: DetailPane, context: OneContext): OnePlan<DetailBody> {
  const { dataSet } = context;
  const fields = [...new Set([...pane.fields, ...keyAndTitle(dataSet)])];
  const titleAt = dataSet.title === undefined ? -1 : fields.indexOf(dataSet.title);
  return {
    first: { record: pickedRecord(context, fields) },
    shape: ({ records }) => {
      const [record = null] = records.record ?? [];
      return {
        kind: 'detail',
        fields: fields.map((name) => shownField(fieldOf(dataSet, name))),
        record,
        title: record && titleAt >= 0 ? String(record[titleAt] ?? '') : null,
        noun: dataSet.noun,
      };
    },
  };
}
