import { labelOf } from '#core/value/field/value.ts';
import { capital } from '#core/words/capital.ts';
import { listWords } from '#core/words/condition.ts';
import type { BriefPart } from '../../kind.ts';
import { askList } from '../../list-plan.ts';
import { listParts } from '../../list-view.ts';
import { type OneContext, type OnePlan, type OneSentence, ofOne } from '../../of-one.ts';
import { orderWords } from '../../order-words.ts';
import { fieldOf, type Loosen, type RecordList, shownField } from '../../shown.ts';
import type { RecordCardsPane } from './schema.ts';
import { cardFields } from './use.ts';

export interface RecordCardsBody extends RecordList {
  readonly kind: 'record-cards';
  readonly loosen?: readonly Loosen[];
}

/** Records as cards in a grid. */
export const recordCards = ofOne<RecordCardsPane, RecordCardsBody>({
  view: (pane) => {
    const { show: _, ...parts } = listParts(cardFields(pane));
    return parts;
  },
  forReaders: (pane) => ({
    ...pane,
    order: pane.order.filter(({ by }) => (pane.searched ?? cardFields(pane)).includes(by)),
  }),
  ask: askCards,
  sentence: cardsSentence,
  questions: [
    {
      ask: 'what are',
      words: 'What do they look like?',
      leads: 'Each record as a card',
      size: { w: 12, h: 9 },
    },
  ],
  suggest: (_, { dataSet, visibleFields, time }) => {
    const picture = visibleFields.find(({ format }) => format?.kind === 'picture')?.name;
    return {
      kind: 'record-cards',
      title: capital(dataSet.noun.many),
      fields: visibleFields
        .filter(({ name, format }) => name !== dataSet.title && format?.kind !== 'picture')
        .slice(0, 5)
        .map(({ name }) => name),
      ...(picture === undefined ? {} : { picture }),
      order: time ? [{ by: time.name, descending: true }] : [],
      pageSize: 12,
    };
  },
});

function askCards(pane: RecordCardsPane, asks: OneContext): OnePlan<RecordCardsBody> {
  const { dataSet } = asks;
  const shown = cardFields(pane);
  const { plan, first, after, body } = askList(
    { shown, searched: pane.searched, order: pane.order, pageSize: pane.pageSize },
    asks,
  );
  const fields = plan.fields.map((name) => shownField(fieldOf(dataSet, name)));
  return {
    first,
    ...(after ? { after } : {}),
    shape: (answers) => ({ kind: 'record-cards', fields, ...body(answers) }),
    list: {
      plan,
      columns: plan.fields
        .map((name) => fieldOf(dataSet, name))
        .filter(({ hidden, format }) => !hidden && format?.kind !== 'picture')
        .map((field) => ({ label: labelOf(field), name: field.name, type: field.type })),
    },
  };
}

function cardsSentence(pane: RecordCardsPane, { dataSet, field, which }: OneSentence): BriefPart[] {
  const { fields, picture, order, pageSize, inStepWith } = pane;
  return [
    { text: `Show ${dataSet.noun.many} as cards with ` },
    { slot: 'fields', text: listWords(fields.map(field), 'and', 5) },
    { text: ' and ' },
    { slot: 'picture', text: picture === undefined ? 'no picture' : `the picture in ${field(picture)}` },
    { text: ', ' },
    { slot: 'inStep', text: inStepWith === undefined ? 'by themselves' : 'in step with another list' },
    ...(inStepWith === undefined
      ? [
          { text: ', sorted by ' },
          { slot: 'order', text: orderWords(order, dataSet, field) },
          { text: ', ' },
          { slot: 'pageSize', text: `${pageSize} to a page` },
          ...which(','),
        ]
      : []),
    { text: '.' },
  ];
}
