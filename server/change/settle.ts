import { openSource } from '../sources/open.ts';
import { endBatch, openBatches, type StoredBatch } from '../store/changes.ts';
import { findDataSet } from '../store/data-sets.ts';
import { tellOf } from './tell.ts';

/* Changes whose end nobody noted, since what sent them was cut off, or the source could not say: it is asked. */

/** No change takes longer than this; what is older was cut off. Milliseconds. */
const cutOffMs = 90_000;
const atOnce = 50;

/** Finds out what became of changes that nobody heard the end of. */
export async function settleChanges(now: Date): Promise<void> {
  for (const batch of await openBatches(new Date(now.getTime() - cutOffMs), atOnce)) {
    const wasMade = await whetherMade(batch);
    if (wasMade === null) continue;
    await endBatch(batch.id, wasMade ? 'done' : 'refused');
    const dataSet = wasMade ? await findDataSet(batch.dataSetId) : null;
    if (dataSet) await tellOf(dataSet.id, dataSet.definition);
  }
}

/** What never reached its end was not made. */
async function whetherMade({ mark, sourceId }: StoredBatch): Promise<boolean | null> {
  if (mark === null) return false;
  try {
    const { changes } = await openSource(sourceId);
    return changes ? await changes.wasMade(mark) : null;
  } catch {
    // The source is away, or gone: it is asked again.
    return null;
  }
}
