import type { Column, DataSet } from '#core/dataset/schema.ts';
import { freeStepId } from '#core/dataset/step/free-id.ts';
import type { Step } from '#core/dataset/step/schema.ts';
import type { Field } from '#core/value/field/field.ts';
import { freeName } from '#core/value/field/free-name.ts';
import type { FieldType } from '#core/value/field/types.ts';
import { followUpLooks, followUpStates } from './follow-up.ts';

/* What people noted of the records of a data set, as records of their own: one for each that somebody noted something of. */

const parts = {
  record: null,
  state: 'text',
  due: 'date',
  given_to: 'text',
  touched_at: 'instant',
  touched_by: 'text',
  notes: 'integer',
} as const satisfies Record<string, FieldType | null>;
export type FollowUpPart = keyof typeof parts;

const about: Record<FollowUpPart, Partial<Field>> = {
  record: { label: 'Record' },
  state: {
    label: 'Follow-up',
    states: followUpStates.map((value) => ({ value, ...followUpLooks[value] })),
  },
  due: { label: 'Follow-up due' },
  given_to: { label: 'Given to' },
  touched_at: { label: 'Last touched' },
  touched_by: { label: 'Touched by' },
  notes: { label: 'Notes' },
};

/** The parts that stand beside the record itself, with the names that they have there. */
const besides = (Object.keys(parts) as FollowUpPart[])
  .filter((part) => part !== 'record')
  .map((part) => ({
    field: part,
    as: part === 'touched_at' || part === 'touched_by' ? part : `follow_up_${part}`,
  }));

/** The follow-ups of a data set as a data set; null where nothing identifies its records. */
export function followUpData(source: string, id: string, { fields, key, noun }: DataSet): DataSet | null {
  const keyType = fields.find(({ name }) => name === key)?.type;
  if (keyType === undefined) return null;
  const columns = (Object.keys(parts) as FollowUpPart[]).map(
    (part): Column => ({ column: part, name: part, type: parts[part] ?? keyType }),
  );
  return {
    version: 2,
    source,
    request: { kind: 'follow-ups', dataSet: id, columns },
    inputs: [],
    fields: columns.map(({ name, type }) => ({ name, type, ...about[name as FollowUpPart] })),
    key: 'record',
    noun: { one: `followed-up ${noun.one}`, many: `followed-up ${noun.many}` },
    measures: [{ name: 'count', label: `followed-up ${noun.many}`, calculation: { kind: 'count' } }],
  };
}

/** Whether a data set is of what people noted of the records of another. */
export const isFollowUpsOf = ({ request }: DataSet, id: string): boolean =>
  request.kind === 'follow-ups' && request.dataSet === id;

/** The step that looks up what people noted of each record, with names that no field has; null where nothing identifies one. */
export function followUpStep({ fields, key, steps = [] }: DataSet, dataSet: string): Step | null {
  if (key === undefined) return null;
  const isTaken = (free: string): boolean => fields.some(({ name }) => name === free);
  return {
    kind: 'lookUp',
    id: freeStepId(steps),
    from: { dataSet },
    on: [{ field: key, other: 'record' }],
    mode: 'one',
    take: besides.map(({ field, as }) => ({ field, as: freeName(as, isTaken) })),
    order: [],
  };
}
