import type { DataSet } from '#core/dataset/schema.ts';
import type { Field } from '#core/value/field/field.ts';
import { meaningOf } from '#core/value/field/value.ts';
import { capital } from '#core/words/capital.ts';
import type { OfferedData, SuggestionContext, Unplaced } from '../../kind.ts';
import type { Lane, TracePane } from './schema.ts';

const mostLanes = 6;
const mostFields = 8;

const isMoment = ({ type, hidden }: Field): boolean => type === 'instant' && !hidden;

/** The field of a data set that says which case of a meaning its records are of. */
export const caseFieldOf = ({ fields }: DataSet, meaning: string): Field | undefined =>
  fields.find((field) => meaningOf(field) === meaning);

/** What a data set can be followed by: the meanings of its fields. */
export const casesOf = ({ fields }: DataSet): string[] => [
  ...new Set(fields.flatMap((field) => meaningOf(field) ?? [])),
];

/** Records that have a moment and say of which case they are. */
export const followable = (meaning: string, data: readonly OfferedData[]): OfferedData[] =>
  data.filter(({ dataSet }) => dataSet.fields.some(isMoment) && caseFieldOf(dataSet, meaning));

/** A lane of a data set, as well as can be guessed from its fields. */
export function laneOf({ id, name, dataSet }: OfferedData, meaning: string): Lane | null {
  const at = dataSet.fields.find(isMoment);
  const of = caseFieldOf(dataSet, meaning);
  if (!at || !of) return null;
  const visible = dataSet.fields.filter(
    ({ hidden, type, format }) => !hidden && type !== 'nested' && format?.kind !== 'picture',
  );
  const outcome = visible.find(({ states }) => states);
  const words =
    visible.find((field) => field.name === dataSet.title && field !== of) ??
    visible.find((field) => field.type === 'text' && field !== of && field !== outcome);
  return {
    name: capital(name).slice(0, 60),
    dataSet: id,
    case: of.name,
    at: at.name,
    ...(outcome ? { outcome: outcome.name } : {}),
    ...(words ? { words: words.name } : {}),
    fields: visible
      .filter((field) => field !== at && field !== of && field !== outcome && field !== words)
      .slice(0, mostFields)
      .map((field) => field.name),
  };
}

/** What most data sets have events of, beginning with what the one that is asked about is of. */
export function suggestTrace({ dataSetId, dataSet, offered, time }: SuggestionContext): Unplaced<TracePane> {
  const [first] = casesOf(dataSet)
    .map((meaning) => ({ meaning, data: followable(meaning, offered) }))
    .sort((a, b) => b.data.length - a.data.length);
  const own = { id: dataSetId, name: dataSet.noun.many, dataSet };
  const meaning = first?.meaning ?? 'record';
  const others = (first?.data ?? []).filter(({ id }) => id !== dataSetId);
  const lanes = [offered.find(({ id }) => id === dataSetId) ?? own, ...others]
    .flatMap((each) => laneOf(each, meaning) ?? [])
    .slice(0, mostLanes);
  const key = dataSet.fields[0]?.name ?? '';
  return {
    kind: 'trace',
    title: `What happened to a ${nounFor(meaning, offered)}`,
    about: { meaning, noun: nounFor(meaning, offered) },
    lanes:
      lanes.length > 0
        ? lanes
        : [{ name: capital(own.name), dataSet: dataSetId, case: key, at: time?.name ?? key, fields: [] }],
    expects: [],
    span: 15,
  };
}

/** What one case is called: as the data set calls its records which it is the key of, else its meaning where that is a word. */
export function nounFor(meaning: string, offered: readonly OfferedData[]): string {
  const home = offered.find(({ dataSet }) => {
    const key = dataSet.fields.find(({ name }) => name === dataSet.key);
    return key !== undefined && meaningOf(key) === meaning;
  });
  return home?.dataSet.noun.one ?? (meaning.includes('.') ? 'record' : meaning);
}
