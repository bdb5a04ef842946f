import Big from 'big.js';
import type { ChangeRule, RuleOrder } from '#core/dataset/change/schema.ts';
import type { Field } from '#core/value/field/field.ts';
import { isNumeric, isTemporal, labelOf } from '#core/value/field/value.ts';
import type { Values } from './change.ts';

/* What has to be so between the fields of a record that people change. Pure. */

type Known = Pick<Field, 'name' | 'type' | 'label'>;

const holds: Readonly<Record<RuleOrder, (order: number) => boolean>> = {
  above: (order) => order > 0,
  atLeast: (order) => order >= 0,
  below: (order) => order < 0,
  atMost: (order) => order <= 0,
  differs: (order) => order !== 0,
};

const numberWords: Readonly<Record<RuleOrder, string>> = {
  above: 'above',
  atLeast: 'at least',
  below: 'below',
  atMost: 'at most',
  differs: 'other than',
};
const timeWords: Readonly<Record<RuleOrder, string>> = {
  above: 'after',
  atLeast: 'not before',
  below: 'before',
  atMost: 'not after',
  differs: 'other than',
};

/** How two fields of these types can be compared; none where they never can. */
export const ordersOf = (type: Field['type']): readonly RuleOrder[] =>
  type === 'nested'
    ? []
    : isNumeric(type) || isTemporal(type)
      ? ['above', 'atLeast', 'below', 'atMost', 'differs']
      : ['differs'];

export const orderWords = (order: RuleOrder, type: Field['type']): string =>
  (isTemporal(type) ? timeWords : numberWords)[order];

/** Whether the values of two fields can be told apart in order. */
export const areComparable = (one: Known, other: Known): boolean =>
  one.name !== other.name &&
  (one.type === other.type || (isNumeric(one.type) && isNumeric(other.type))) &&
  one.type !== 'nested';

/** -1, 0 or 1, as canonical texts of a type stand to each other, exactly. */
function orderOf(type: Field['type'], one: string, other: string): number {
  if (isNumeric(type)) return new Big(one).cmp(other);
  if (type === 'instant') return Math.sign(Date.parse(one) - Date.parse(other));
  return one < other ? -1 : Number(one > other);
}

/** "Landed must be after left". */
export function ruleWords({ field, is, than }: ChangeRule, fields: readonly Known[]): string {
  const known = (name: string): Known => fields.find((each) => each.name === name) ?? { name, type: 'text' };
  const one = known(field);
  const words = orderWords(is, one.type);
  const must = words.startsWith('not ') ? `must not be ${words.slice(4)}` : `must be ${words}`;
  return `${labelOf(one)} ${must} ${labelOf(known(than)).toLowerCase()}`;
}

/** Those of some rules that a change of these fields can break. */
export const rulesAbout = (
  rules: readonly ChangeRule[] | undefined,
  changed: readonly string[],
): readonly ChangeRule[] =>
  (rules ?? []).filter(({ field, than }) => changed.includes(field) || changed.includes(than));

/** The rules that a record breaks, its values as canonical texts. What is blank breaks none. */
export function brokenRules(
  rules: readonly ChangeRule[],
  record: Values,
  fields: readonly Known[],
): ChangeRule[] {
  return rules.filter(({ field, is, than }) => {
    const [one, other] = [record[field] ?? null, record[than] ?? null];
    const type = fields.find(({ name }) => name === field)?.type;
    return one !== null && other !== null && type !== undefined && !holds[is](orderOf(type, one, other));
  });
}
