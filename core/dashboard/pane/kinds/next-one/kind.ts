import { keyAndTitle } from '#core/dataset/naming.ts';
import { allOf, type RecordsPlan } from '#core/plan/plan.ts';
import { listWords } from '#core/words/condition.ts';
import { loosen, looseQuestions } from '../../loosen.ts';
import { type OneContext, type OnePlan, ofOne } from '../../of-one.ts';
import { orderWords } from '../../order-words.ts';
import { fieldOf, type Loosen, type ShownRecord, shownField } from '../../shown.ts';
import type { NextOnePane } from './schema.ts';

export interface NextOneBody extends ShownRecord {
  readonly kind: 'next-one';
  /** What identifies it; null where its records have no key. */
  readonly key: string | null;
  readonly loosen?: readonly Loosen[];
}

/** The single most pressing record. */
export const nextOne = ofOne<NextOnePane, NextOneBody>({
  forReaders: (pane) => ({ ...pane, order: pane.order.filter(({ by }) => pane.fields.includes(by)) }),
  ask: askNextOne,
  sentence: ({ order, fields }, { dataSet, field, which }) => [
    { text: `Show the first ${dataSet.noun.one} by ` },
    { slot: 'order', text: orderWords(order, dataSet, field) },
    { text: ', with ' },
    { slot: 'fields', text: fields.length === 0 ? 'its name alone' : listWords(fields.map(field)) },
    ...which(','),
    { text: '.' },
  ],
  questions: [
    { ask: 'next', words: 'What is next?', leads: 'The single most pressing record', size: { w: 3, h: 4 } },
  ],
  suggest: (_, { dataSet, visibleFields, time }) => {
    const by = time ?? visibleFields[0];
    return {
      kind: 'next-one',
      title: `The next ${dataSet.noun.one}`,
      order: [{ by: by?.name ?? '' }],
      ...(time ? { keeping: { field: time.name, test: { op: 'during', period: { kind: 'future' } } } } : {}),
      when: 'any',
      fields: visibleFields
        .filter(({ name, format }) => name !== dataSet.title && format?.kind !== 'picture')
        .slice(0, 3)
        .map(({ name }) => name),
    };
  },
  propose: ({ dataSetId, dataSet, due, open, category }) =>
    due && open
      ? [
          {
            pane: {
              kind: 'next-one',
              title: 'Due first',
              dataSet: dataSetId,
              keeping: open,
              when: 'any',
              order: [{ by: due.name }],
              fields: [due.name, ...(category && category.name !== dataSet.title ? [category.name] : [])],
            },
            size: { w: 3, h: 4 },
            part: 'numbers',
          },
        ]
      : [],
});

function askNextOne(pane: NextOnePane, asks: OneContext): OnePlan<NextOneBody> {
  const { dataSet, from, applied, clock } = asks;
  const fields = [...new Set([...pane.fields, ...keyAndTitle(dataSet)])];
  const at = (name: string | undefined): number => (name === undefined ? -1 : fields.indexOf(name));
  const plan: RecordsPlan = {
    kind: 'records',
    from,
    zone: clock.zone,
    where: allOf(applied.map(({ filter }) => filter)),
    fields,
    order: pane.order,
    ...(dataSet.key === undefined ? {} : { key: dataSet.key }),
    offset: 0,
    limit: 1,
  };
  return {
    first: { record: { plan } },
    after: ({ records: { record = [] } }) => ({
      ask: record.length > 0 ? {} : looseQuestions(asks),
      isShown: false,
    }),
    shape: (answers) => {
      const [record = null] = answers.records.record ?? [];
      const text = (index: number): string | null => {
        const cell = index < 0 ? null : (record?.[index] ?? null);
        return cell === null ? null : String(cell);
      };
      return {
        kind: 'next-one',
        fields: fields.map((name) => shownField(fieldOf(dataSet, name))),
        record,
        title: text(at(dataSet.title)) ?? text(at(dataSet.key)),
        key: text(at(dataSet.key)),
        noun: dataSet.noun,
        ...(record ? {} : { loosen: loosen(asks, answers) }),
      };
    },
  };
}
