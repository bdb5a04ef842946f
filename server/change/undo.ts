import type { ChangeAnswer } from '#core/change/answer.ts';
import type { Change } from '#core/change/change.ts';
import { ProblemError } from '#core/value/problem/problem.ts';
import { openSource } from '../sources/open.ts';
import { type ChangedOne, findBatch, isUndone, recordsOfBatch, type StoredBatch } from '../store/changes.ts';
import { findDataSets } from '../store/data-sets.ts';
import { linesToRemove, type SentLines } from './lines.ts';
import { earlier, type Sender, send } from './send.ts';
import { placeOf, toColumns } from './subject.ts';

/** Takes back what a batch did, as a change like any other: what was changed since stays, and is shown. */
export async function undoChange(
  { batch, of }: { readonly batch: string; readonly of: string },
  sender: Sender,
): Promise<ChangeAnswer> {
  const before = await earlier(batch, sender.user);
  if (before) return before;
  const done = await findBatch(of);
  const dataSet = done && sender.context.dataSets.get(done.dataSetId);
  if (
    !done ||
    !dataSet ||
    done.state !== 'done' ||
    done.way === 'remove' ||
    done.userId !== sender.user.id ||
    done.dashboardId !== sender.dashboardId ||
    (await isUndone(of))
  )
    throw new ProblemError({
      code: 'bad-request',
      doing: 'undoing a change',
      why: 'it has been undone already, or cannot be',
      mend: 'The record’s history says what became of it.',
    });
  const place = placeOf(dataSet, sender.context.dataSets);
  const sent = (await recordsOfBatch(of)).filter(({ outcome }) => !outcome);
  const records = sent.filter((each) => each.place === done.place);
  const lines = await linesBack(
    done,
    sent.filter((each) => each.place !== done.place),
  );
  const changes = records.flatMap(({ key, before: was, after: is }): Change[] => {
    const expected = toColumns(is ?? {}, place);
    if (was === null) return [{ way: 'remove', key, expected }];
    return [{ way: 'update', key, expected, values: toColumns(was, place) }];
  });
  return send(
    {
      batch,
      pane: done.pane,
      label: `Undo of “${done.label}”`,
      way: done.way === 'insert' ? 'remove' : 'update',
      undoes: of,
      fields: [...new Set(records.flatMap(({ before: was, after: is }) => Object.keys(was ?? is ?? {})))],
      changes,
      lines,
      titles: new Map(records.map(({ key, title }) => [key, title])),
    },
    { dataSet, dataSetId: done.dataSetId, place },
    sender,
  );
}

/** The lines that came with the record of a batch, to be removed again before it; null where none did. */
async function linesBack(
  { linesDataSetId }: StoredBatch,
  records: readonly ChangedOne[],
): Promise<SentLines | null> {
  if (linesDataSetId === null || records.length === 0) return null;
  const world = await findDataSets([linesDataSetId]);
  const dataSet = world.get(linesDataSetId);
  const { changes } = dataSet ? await openSource(dataSet.source) : { changes: null };
  if (!dataSet || !changes?.together)
    throw new ProblemError({
      code: 'bad-request',
      doing: 'undoing a change',
      why: dataSet
        ? 'its source cannot undo several lines at once'
        : 'the data set of its lines no longer exists',
      mend: 'Remove them one by one, and then what they are of.',
    });
  return linesToRemove({ dataSetId: linesDataSetId, dataSet, place: placeOf(dataSet, world) }, records);
}
