import { freeStepId } from '#core/dataset/step/free-id.ts';
import { unreadName } from '#core/dataset/step/kinds/fields.ts';
import type { Step } from '#core/dataset/step/schema.ts';
import { startOf, withOutcome } from './outcome.ts';
import type { Column, DataSet, Request } from './schema.ts';
import type { World } from './world.ts';

/** A column as text: written out where the source has it otherwise; a moment without a zone stays one in UTC. */
const written = (column: Column): Column => ({
  ...column,
  type: 'text',
  read: column.read === 'utc' ? 'utc' : 'text',
});

/** The request with the column of one name as text, which may be one that a look-up takes. */
function withText(request: Exclude<Request, { kind: 'of' }>, name: string): Request {
  const isSql = request.kind === 'sql' || request.kind === 'table';
  const asText = (column: Column): Column =>
    column.name !== name ? column : isSql ? written(column) : { ...column, type: 'text' };
  const columns = request.columns.map(asText);
  if (request.kind !== 'table') return { ...request, columns } as Request;
  const lookUps = request.lookUps.map((each) => ({ ...each, take: each.take.map(asText) }));
  return { ...request, columns, lookUps };
}

/**
 * The data set with a field of its request taken as text, and read as the type that it had by a first step: what cannot be
 * read so is blank there, and stands beside it as it was written. What comes after has the field as it was before. Null
 * where the request has no such field, or it is text already.
 */
export function readAsText(dataSet: DataSet, name: string, world: World): DataSet | null {
  const start = startOf(dataSet);
  const field = start.find((each) => each.name === name);
  const { steps = [], request } = dataSet;
  if (!field || field.type === 'text' || request.kind === 'of') return null;
  const beside = unreadName(name);
  if (start.some((each) => each.name === beside)) return null;
  const read: Step = { kind: 'type', id: freeStepId(steps), field: name, to: field.type, misfit: 'list' };
  return withOutcome(
    {
      ...dataSet,
      request: withText(request, name),
      start: start.map((each) => (each.name === name ? { ...each, type: 'text' as const } : each)),
      steps: [read, ...steps],
    },
    world,
  );
}
