import { scheduleProblem } from '#core/dataset/kept/next.ts';
import { isNumeric, isTemporal } from '#core/value/field/value.ts';
import { startOf } from './outcome.ts';
import type { DataSet } from './schema.ts';

function mustBeKept(request: DataSet['request']): string | null {
  switch (request.kind) {
    case 'upload':
      return 'records of uploaded files are always kept';
    case 'log':
      return 'lines of logs are always kept: the files themselves go';
    case 'intake':
      return 'what is sent to us is always kept: there is nobody to ask again';
    default:
      return null;
  }
}

/** Why a data set's records cannot be kept as it says, or null. */
export function keepProblem(dataSet: DataSet): string | null {
  const { keep, key, inputs, request } = dataSet;
  if (request.kind === 'of') return keep ? 'its records are another data set’s: keep those' : null;
  // What is kept is what the request yields; steps come after.
  const fields = startOf(dataSet);
  if (!keep) return mustBeKept(request);
  const isFollowed = request.kind === 'log' || request.kind === 'intake';
  if (isFollowed !== (keep.mode.kind === 'follow'))
    return isFollowed
      ? 'what is written to a log or sent to us is followed, and not fetched in another way'
      : 'only logs and what is sent to us can be followed';
  if (request.kind === 'http' && keep.mode.kind === 'append')
    return 'a service gives all its records each time, so adding them would double them';
  const typeOf = (name: string) => fields.find((field) => field.name === name)?.type;
  const tell = keep.mode.kind === 'changed' ? keep.mode.tell : undefined;
  const sinceInput = inputs.find(({ name }) => name === tell);
  if (tell !== undefined) {
    if (request.kind !== 'http') return 'only a service is told by an input where to go on from';
    if (!sinceInput) return `there is no input “${tell}” to tell the service by`;
    if (sinceInput.required)
      return `the input “${tell}” must be optional: the first time there is nothing to go on from`;
  }
  if (inputs.some((input) => input !== sinceInput))
    return 'records that depend on an input cannot be kept: there is no end to its values';
  if (keep.mode.kind !== 'replace' && keep.mode.kind !== 'follow') {
    const type = typeOf(keep.mode.since);
    if (!type) return `there is no field “${keep.mode.since}” to go on from`;
    if (sinceInput && sinceInput.type !== 'text' && sinceInput.type !== type)
      return `the input “${sinceInput.name}” is no ${type}, which “${keep.mode.since}” is`;
    if (!isNumeric(type) && !isTemporal(type))
      return `“${keep.mode.since}” is neither a number nor a moment, so there is no going on from it`;
    if (keep.mode.kind === 'changed' && (!key || !typeOf(key)))
      return 'what changed can only take the place of the same record when something identifies a record';
  }
  if (keep.forget) {
    const type = typeOf(keep.forget.field);
    if (!type || !isTemporal(type))
      return `“${keep.forget.field}” is not a date or moment, so nothing grows old by it`;
  }
  return scheduleProblem(keep.schedule);
}
