import type { DataSet } from '#core/dataset/schema.ts';
import { meaningOf } from '#core/value/field/value.ts';

/** A meaning that is a bare word is one for all sources ("passage"); `schema.table.column` is a column of one source. */
const isOfDesk = (meaning: string): boolean => !meaning.includes('.');

/**
 * How a field of one data set is found in another: the same field of the same data set, else a field with the same meaning,
 * of the same source unless the meaning is one for all. This is all the wiring there is. Null: the other data set has no such thing.
 */
export function counterpart(field: string, of: DataSet, inside: DataSet): string | null {
  const own = of.fields.find(({ name }) => name === field);
  if (!own) return null;
  if (of === inside) return field;
  const meaning = meaningOf(own);
  if (meaning === undefined || (of.source !== inside.source && !isOfDesk(meaning))) return null;
  const alike = inside.fields.filter((each) => meaningOf(each) === meaning);
  return (alike.find(({ name }) => name === field) ?? alike[0])?.name ?? null;
}
