import type { DataSet } from '#core/dataset/schema.ts';
import { listWords } from '#core/words/condition.ts';
import { directionWords } from '#core/words/order.ts';
import type { ListOrder } from './list-view.ts';
import { fieldOf } from './shown.ts';

/** What records are sorted by, in words: "departs, latest first then by route, A to Z". */
export const orderWords = (order: ListOrder, dataSet: DataSet, field: (name: string) => string): string =>
  order.length === 0
    ? 'nothing'
    : listWords(
        order.map(
          ({ by, descending }) =>
            `${field(by)}, ${directionWords(fieldOf(dataSet, by), descending ?? false)}`,
        ),
        'then by',
      );
