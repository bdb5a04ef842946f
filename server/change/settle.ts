import type { Values } from '#core/change/change.ts';
import type { DataSet } from '#core/dataset/schema.ts';
import { mark as oneByOne } from '#sources/change-each.ts';
import { openSource } from '../sources/open.ts';
import {
  type ChangedOne,
  endBatch,
  noteOutcomes,
  openBatches,
  recordsOfBatch,
  type StoredBatch,
} from '../store/changes.ts';
import { findDataSet, worldOf } from '../store/data-sets.ts';
import { columnsOf, placeOf, toColumns } from './subject.ts';
import { tellOf } from './tell.ts';

/* Changes whose end nobody noted, since what sent them was cut off, or the source could not say: it is asked. */

/** No change takes longer than this; what is older was cut off. Milliseconds. */
const cutOffMs = 90_000;
/** Those that are sent one by one may take longer. */
const eachCutOffMs = 600_000;
const atOnce = 50;

/** Finds out what became of changes that nobody heard the end of. */
export async function settleChanges(now: Date): Promise<void> {
  for (const batch of await openBatches(new Date(now.getTime() - cutOffMs), atOnce)) {
    if (batch.mark === oneByOne && now.getTime() - batch.at.getTime() < eachCutOffMs) continue;
    const dataSet = await findDataSet(batch.dataSetId);
    // What came or went with a record was made with it.
    const records = (await recordsOfBatch(batch.id)).filter(({ place }) => place === batch.place);
    const outcomes = await outcomesOf(batch, records, dataSet?.definition ?? null);
    if (outcomes.includes(null)) continue;
    const isInPart = outcomes.includes(true) && outcomes.includes(false);
    if (isInPart)
      await noteOutcomes(
        batch.id,
        records.map((each, at) => ({ ...each, outcome: outcomes[at] ? null : 'refused' })),
      );
    const wasMade = outcomes.includes(true);
    await endBatch(batch.id, wasMade ? 'done' : 'refused');
    if (!wasMade || !dataSet) continue;
    const lines = batch.linesDataSetId === null ? null : await findDataSet(batch.linesDataSetId);
    await tellOf(
      { id: dataSet.id, dataSet: dataSet.definition },
      ...(lines ? [{ id: lines.id, dataSet: lines.definition }] : []),
    );
  }
}

/** Whether the records of a batch were changed, each; null where that cannot be told yet. What never came to be noted was not sent. */
async function outcomesOf(
  { mark, sourceId }: StoredBatch,
  records: readonly ChangedOne[],
  dataSet: DataSet | null,
): Promise<readonly (boolean | null)[]> {
  if (mark === null) return [false];
  if (!dataSet) return [null];
  try {
    const { changes } = await openSource(sourceId);
    if (!changes) return [null];
    const place = placeOf(dataSet, await worldOf(dataSet));
    const fields = records.flatMap(({ before, after }) => Object.keys(before ?? after ?? {}));
    const inColumns = (values: Values | null): Values | null => values && toColumns(values, place);
    return await changes.outcomes({
      mark,
      place: place.place,
      columns: columnsOf(fields, place),
      records: records.map(({ key, before, after }) => ({
        key,
        before: inColumns(before),
        after: inColumns(after),
      })),
    });
  } catch {
    // The source is away, or nothing is there any more to ask about: it is asked again.
    return [null];
  }
}
