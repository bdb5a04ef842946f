import type { Check, DataSet } from '#core/dataset/schema.ts';
import { labelOf } from '#core/value/field/value.ts';
import { counted } from '#core/value/format/counted.ts';
import { conditionWords, listWords } from './condition.ts';

/** What is expected, as a sentence: "no two sailings share a number". */
export function expectationWords(
  expects: Check['expects'],
  { fields, noun }: Pick<DataSet, 'fields' | 'noun'>,
): string {
  const label = (name: string): string =>
    labelOf(fields.find((field) => field.name === name) ?? { name }).toLowerCase();
  switch (expects.kind) {
    case 'unique':
      return `no two ${noun.many} have the same ${listWords(expects.fields.map(label))}`;
    case 'filled':
      return `${label(expects.field)} is filled in for every ${noun.one}`;
    case 'all':
      return `of every ${noun.one}, ${conditionWords(expects.where, fields, 'UTC')}`;
    case 'count': {
      const { least, most } = expects;
      if (least !== undefined && most !== undefined) return `there are ${least} to ${most} ${noun.many}`;
      const bound = least ?? most ?? 0;
      return `there ${bound === 1 ? 'is' : 'are'} at ${least !== undefined ? 'least' : 'most'} ${counted(bound, noun.one, noun.many)}`;
    }
    case 'fresh':
      return `the latest ${label(expects.field)} is at most ${counted(expects.hours, 'hour')} old`;
  }
}
