import { sql } from 'drizzle-orm';
import { recordPlace } from '#core/change/place.ts';
import type { DataSet } from '#core/dataset/schema.ts';
import { meaningOf } from '#core/value/field/value.ts';
import { allDataSets, findDataSet } from './data-sets.ts';
import { database } from './database.ts';

/** What the key of a data set is one of; null where it has none. */
function keyMeaning({ fields, key }: DataSet): string | null {
  const field = fields.find(({ name }) => name === key);
  return field ? (meaningOf(field) ?? field.name) : null;
}

/** As many data sets can be made one of the other (see `relationWith`). */
const mostDeep = 20;

/** {@link recordPlace}, where records of a data set that is made of another are those of that one, as long as its key says which. */
export async function placeOfRecords(id: string, dataSet: DataSet): Promise<string> {
  let of = { id, definition: dataSet };
  for (let deep = 0; deep < mostDeep; deep += 1) {
    const { request } = of.definition;
    const base = request.kind === 'of' ? await findDataSet(request.dataSet) : null;
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
  for (const { id, definition } of await allDataSets()) {
    if (!definition.followUp || definition.request.kind !== 'of') continue;
    const [apart, joined] = [recordPlace(id, definition), await placeOfRecords(id, definition)];
    if (apart === joined) continue;
    await database().execute(sql`
      UPDATE follow_ups AS f SET place = ${joined} WHERE f.place = ${apart} AND f.data_set_id = ${id}
        AND NOT EXISTS (SELECT 1 FROM follow_ups AS o WHERE o.place = ${joined} AND o.desk_id = f.desk_id AND o.key = f.key)`);
  }
}
