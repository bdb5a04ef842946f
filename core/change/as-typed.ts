import type { ChangeLook } from './answer.ts';
import type { Values } from './change.ts';
import { brokenRules } from './rules.ts';
import { checkValue } from './values.ts';

/**
 * What is wrong with values while somebody types them, by field: the server finds the same once they are sent. What is blank may yet be
 * filled in.
 */
export function wrongAsTyped(
  { fields, rules, records, way }: Pick<ChangeLook, 'fields' | 'rules' | 'records' | 'way'>,
  values: Values,
  zone: string,
): Record<string, string> {
  const wrong: Record<string, string> = {};
  const read: Record<string, string | null> = {};
  for (const { field, longest, choices } of fields) {
    const value = values[field.name] ?? null;
    const column = {
      ...(longest === null ? {} : { longest }),
      ...(choices ? { among: choices.map((choice) => choice.value) } : {}),
    };
    const checked = checkValue({ field, column }, value, zone);
    if (checked.ok) read[field.name] = checked.value;
    else wrong[field.name] = checked.why;
  }
  const of = way === 'insert' ? [{ saw: {}, beside: {} }] : records;
  for (const { rule, words, fields: known } of rules) {
    const isBroken = of.some(
      ({ saw, beside }) => brokenRules([rule], { ...beside, ...saw, ...read }, known).length > 0,
    );
    const at = rule.field in read ? rule.field : rule.than;
    if (isBroken && !(at in wrong)) wrong[at] = words;
  }
  return wrong;
}
