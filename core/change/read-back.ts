import type { FieldType } from '#core/value/field/types.ts';
import type { ChangedRecord, Values } from './change.ts';
import { isSameValue } from './same.ts';

/**
 * What became of changes whose end nobody heard, told by the records as they are now: made where each is as it was to become, not made where
 * each is as it was before. Null where it cannot be told, since somebody else has changed one meanwhile.
 */
export function madeFrom(
  records: readonly ChangedRecord[],
  now: ReadonlyMap<string, Values>,
  typeOf: (column: string) => FieldType,
): boolean | null {
  const isNow = ({ key }: ChangedRecord, then: Values | null): boolean => {
    const is = now.get(key) ?? null;
    if (is === null || then === null) return is === then;
    return Object.entries(then).every(([name, value]) => isSameValue(typeOf(name), is[name] ?? null, value));
  };
  if (records.every((each) => isNow(each, each.after))) return true;
  return records.every((each) => isNow(each, each.before)) ? false : null;
}
