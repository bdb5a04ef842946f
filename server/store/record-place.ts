import { sql } from 'drizzle-orm';
import { recordPlace } from '#core/change/place.ts';
import type { DataSet } from '#core/dataset/schema.ts';
import { deepest } from '#core/plan/relation.ts';
import { meaningOf } from '#core/value/field/value.ts';
import { findDataSet, type StoredDataSet } from './data-sets.ts';
import { database } from './database.ts';
import { followUps } from './tables/follow-ups.ts';

/** What the key of a data set is one of; null where it has none. */
function keyMeaning({ fields, key }: DataSet): string | null {
  const field = fields.find(({ name }) => name === key);
  return field ? (meaningOf(field) ?? field.name) : null;
}

type Found = Pick<StoredDataSet, 'id' | 'definition'>;

/**
 * {@link recordPlace}, where records of a data set that is made of another are those of that one, as long as its key says which. `find`:
 * for those who have read the data sets already.
 */
export async function placeOfRecords(
  id: string,
  dataSet: DataSet,
  find: (id: string) => Promise<Found | null> = findDataSet,
): Promise<string> {
  let of: Found = { id, definition: dataSet };
  for (let deep = 0; deep < deepest; deep += 1) {
    const { request } = of.definition;
    const base = request.kind === 'of' ? await find(request.dataSet) : null;
    const meaning = keyMeaning(of.definition);
    if (!base || meaning === null || keyMeaning(base.definition) !== meaning) break;
    of = base;
  }
  return recordPlace(of.id, of.definition);
}

/**
 * Puts what was noted of records of data sets that are made of others with what was noted of those, where it still stands apart. Of a
 * record that has both on one desk, each stays where it is.
 */
export async function joinPlaces(): Promise<void> {
  const noted = await database().selectDistinct({ id: followUps.dataSetId }).from(followUps);
  for (const { id } of noted) {
    const found = await findDataSet(id);
    if (found?.definition.request.kind !== 'of') continue;
    const [apart, joined] = [recordPlace(id, found.definition), await placeOfRecords(id, found.definition)];
    if (apart === joined) continue;
    await database().execute(sql`
      UPDATE follow_ups AS f SET place = ${joined} WHERE f.place = ${apart} AND f.data_set_id = ${id}
        AND NOT EXISTS (SELECT 1 FROM follow_ups AS o WHERE o.place = ${joined} AND o.desk_id = f.desk_id AND o.key = f.key)`);
  }
}
