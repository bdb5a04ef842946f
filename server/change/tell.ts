import { oneTable } from '#core/dataset/one-table.ts';
import type { DataSet } from '#core/dataset/schema.ts';
import { dataChanged } from '../store/data-changed.ts';
import { allDataSets } from '../store/data-sets.ts';
import { askForRefresh } from '../store/kept.ts';
import { noteChanged } from '../store/sources.ts';

/** Whether a data set may show records of a table: it reads or looks that up, or asks in words of its own that nobody can tell. */
function mayShow({ source, request }: DataSet, of: DataSet): boolean {
  const changed = oneTable(of.request);
  if (source !== of.source || !changed) return false;
  const { schema, table } = changed;
  if (request.kind === 'sql') return true;
  const own = oneTable(request);
  return [...(own ? [own, ...own.lookUps] : [])].some(
    (each) => each.schema === schema && each.table === table,
  );
}

/** Tells every open page that the records of a data set are others now, whatever data set they are shown through. */
export async function tellOf(dataSetId: string, changed: DataSet): Promise<void> {
  await noteChanged(changed.source);
  const all = await allDataSets();
  const showing = all.filter(({ id, definition }) => id === dataSetId || mayShow(definition, changed));
  for (const { id, definition } of showing) if (definition.keep) await askForRefresh(id);
  await dataChanged([...new Set([dataSetId, ...showing.map(({ id }) => id)])]);
}
