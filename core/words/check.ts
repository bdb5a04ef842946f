import type { Check, DataSet } from '#core/dataset/schema.ts';
import { labelOf } from '#core/value/field/value.ts';
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
      return `every ${noun.one} has a ${label(expects.field)}`;
    case 'all':
      return `of every ${noun.one}, ${conditionWords(expects.where, fields, 'UTC')}`;
    case 'count': {
      const { least, most } = expects;
      if (least !== undefined && most !== undefined) return `there are ${least} to ${most} ${noun.many}`;
      return least !== undefined
        ? `there are at least ${least} ${noun.many}`
        : `there are at most ${most ?? 0} ${noun.many}`;
    }
    case 'fresh':
      return `the latest ${label(expects.field)} is at most ${expects.hours} hours old`;
  }
}
