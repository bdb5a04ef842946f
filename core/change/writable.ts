import { oneTable } from '#core/dataset/one-table.ts';
import { startOf } from '#core/dataset/outcome.ts';
import type { Column, DataSet } from '#core/dataset/schema.ts';
import { shape, stepCarries, stepMakes, stepRecords } from '#core/dataset/step/kinds.ts';
import type { World } from '#core/dataset/world.ts';
import { calledColumns } from './calls.ts';

/* Which fields of a data set can be changed where they come from: those that are a column of its own table or service, whatever they are called. */

export type Writable =
  | { readonly ok: true; readonly column: Column }
  | { readonly ok: false; readonly why: string };

const no = (why: string): Writable => ({ ok: false, why });

/** The column that a field is, followed back through the steps; or why nobody can change it. */
export function writableColumn(dataSet: DataSet, field: string, world: World): Writable {
  const request = oneTable(dataSet.request);
  const called = calledColumns(dataSet);
  if (called && !dataSet.changes?.calls) return no('nothing says yet how the service is told of changes');
  if (!request && !called) return no('its records do not come from one table');
  const origin = nameAtStart(dataSet, field, world);
  if (!origin.ok) return origin;
  const column = (request?.columns ?? called)?.find(({ name }) => name === origin.name);
  if (!column)
    return no(
      request?.lookUps.some(({ take }) => take.some(({ name }) => name === origin.name))
        ? 'it is looked up in another table'
        : 'it is not a column of the table',
    );
  if (column.made) return no('the source works it out by itself');
  return { ok: true, column };
}

/** What a field was called before all steps; or the step that stands in between. */
function nameAtStart(
  dataSet: DataSet,
  field: string,
  world: World,
): { ok: true; name: string } | { ok: false; why: string } {
  const { steps = [] } = dataSet;
  const { fields } = shape(startOf(dataSet), steps, world);
  if (!fields.at(-1)?.some((each) => each.name === field))
    return { ok: false, why: 'there is no such field' };
  let name = field;
  for (let at = steps.length - 1; at >= 0; at -= 1) {
    const step = steps[at];
    if (!step || step.off) continue;
    if (stepRecords(step) === 'other')
      return { ok: false, why: `step ${at + 1} makes other records of those of the source` };
    if (!stepMakes(step, fields[at] ?? []).includes(name)) continue;
    const before = stepCarries(step, name);
    if (before === null) return { ok: false, why: `step ${at + 1} works it out` };
    name = before;
  }
  return { ok: true, name };
}

/** The column that identifies a record at its source; or why none can be changed. */
export function keyColumn(dataSet: DataSet, world: World): Writable {
  if (dataSet.key === undefined) return no('nothing says which field identifies a record');
  const key = writableColumn(dataSet, dataSet.key, world);
  if (key.ok) return key;
  // What the source makes by itself identifies a record all the same.
  const origin = nameAtStart(dataSet, dataSet.key, world);
  const called = dataSet.changes?.calls ? calledColumns(dataSet) : null;
  const columns = oneTable(dataSet.request)?.columns ?? called;
  const column = origin.ok ? columns?.find(({ name }) => name === origin.name) : undefined;
  return column ? { ok: true, column } : key;
}
