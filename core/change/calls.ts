import type { ChangeCall, ChangeCalls } from '#core/dataset/change/schema.ts';
import { callInputs, callProblem } from '#core/dataset/http/expand.ts';
import type { HttpCall } from '#core/dataset/http/schema.ts';
import type { Column, DataSet } from '#core/dataset/schema.ts';
import { listWords } from '#core/words/condition.ts';

/* How a service that is no table is told of changes of one of its records. */

/** A call as it is for calls that ask. */
export const asCall = ({ path, body }: Pick<ChangeCall, 'path' | 'body'>): HttpCall => ({
  method: 'POST',
  path,
  query: [],
  headers: [],
  ...(body === undefined ? {} : { body }),
});

/** The columns that a service answers with; null where its records are of another kind. */
export const calledColumns = ({ request }: Pick<DataSet, 'request'>): readonly Column[] | null =>
  request.kind === 'http' ? request.columns : null;

/** What is wrong with the calls by which records of a data set are changed, or null. */
export function callsProblem(calls: ChangeCalls, dataSet: Pick<DataSet, 'request'>): string | null {
  const names = (calledColumns(dataSet) ?? []).map(({ name }) => name);
  for (const [doing, call] of Object.entries(calls)) {
    if (!call) continue;
    const asked = asCall(call);
    const unknown = callInputs(asked).filter((name) => !names.includes(name));
    const wrong =
      callProblem(asked) ??
      (unknown.length > 0 ? `nothing in a record is called ${listWords(unknown, 'or')}` : null);
    if (wrong) return `${words[doing as keyof ChangeCalls]}: ${wrong}`;
  }
  return null;
}

const words: Readonly<Record<keyof ChangeCalls, string>> = {
  read: 'reading one record',
  update: 'changing one',
  insert: 'adding one',
  remove: 'removing one',
};
