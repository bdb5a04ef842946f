import type { AskedField, ShownRule } from '#core/change/answer.ts';
import { rulesAbout, ruleWords } from '#core/change/rules.ts';
import { allowedOf } from '#core/change/values.ts';
import { valueSaid } from '#core/change/words.ts';
import type { Action } from '#core/dataset/change/schema.ts';
import { columnsOfTable, oneTable } from '#core/dataset/one-table.ts';
import type { Column, DataSet } from '#core/dataset/schema.ts';
import { allOf } from '#core/plan/plan.ts';
import { labelOf } from '#core/value/field/value.ts';
import type { Clock } from '#core/value/period/period.ts';
import { runPlan } from '../records/run.ts';
import type { PlaceOfFields, Subject } from './subject.ts';

/* What an action asks of whoever does it. */

/** The fields whose values an action asks for. `beginsWith`: what each is to begin with. */
export async function askedFields(
  {
    dataSet,
    action,
    place,
    beginsWith,
  }: Pick<Subject, 'dataSet' | 'action'> & {
    readonly place: PlaceOfFields;
    readonly beginsWith: (field: string) => string | null;
  },
  clock: Clock,
  signal: AbortSignal | undefined,
): Promise<AskedField[]> {
  const inputs = action.sets.flatMap(({ field, to }) => (to.kind === 'ask' ? [{ name: field, to }] : []));
  return Promise.all(
    inputs.map(async ({ name, to }): Promise<AskedField> => {
      const target = place.targetOf(name);
      const known = dataSet.fields.find((field) => field.name === name);
      const field = known ?? target.field;
      const allowed = allowedOf(target)?.map((value) => ({ value, words: valueSaid(known, value, clock) }));
      return {
        field: {
          name,
          type: field.type,
          ...(known?.unit ? { unit: known.unit } : {}),
          ...(known?.format ? { format: known.format } : {}),
          ...(known?.states ? { states: known.states } : {}),
          ...(known?.group === undefined ? {} : { group: known.group }),
        },
        label: labelOf(field),
        isRequired: to.required === true || target.column.filled === true,
        choices: allowed ?? toldApart(await namedChoices(dataSet, place.columnOf(name), signal)),
        value: beginsWith(name),
        longest: target.column.longest ?? null,
      };
    }),
  );
}

type Named = readonly { readonly value: string; readonly words: string }[];

/** Records to choose from, those of one name with their keys. */
function toldApart(choices: Named | null): Named | null {
  const times = new Map<string, number>();
  for (const { words } of choices ?? []) times.set(words, (times.get(words) ?? 0) + 1);
  return (
    choices?.map(({ value, words }) =>
      times.get(words) === 1 ? { value, words } : { value, words: `${words} (${value})` },
    ) ?? null
  );
}

/** What has to be so between the fields that an action sets, as it is told where it is not. */
export const rulesShown = (dataSet: DataSet, { sets }: Pick<Action, 'sets'>): ShownRule[] =>
  rulesAbout(
    dataSet.changes?.rules,
    sets.map(({ field }) => field),
  ).map((rule) => ({
    rule,
    words: ruleWords(rule, dataSet.fields),
    fields: dataSet.fields
      .filter(({ name }) => name === rule.field || name === rule.than)
      .map(({ name, type }) => ({ name, type })),
  }));

/** More records than this are no list to choose from. */
const mostChoices = 500;

/** The records that a column points at, by the names that the data set looks up; null where it does not, or there are too many. */
export async function namedChoices(
  { source, request: asked }: DataSet,
  column: Column,
  signal: AbortSignal | undefined,
): Promise<{ value: string; words: string }[] | null> {
  const lookUp = oneTable(asked)?.lookUps.find(({ by, from }) => by === column.column && from === undefined);
  const name = lookUp?.take.find(({ type }) => type === 'text');
  if (!lookUp || !name) return null;
  const key: Column = { ...column, column: lookUp.key, name: 'key' };
  const title: Column = { ...name, name: 'name' };
  const { records } = await runPlan(
    {
      kind: 'records',
      from: {
        source,
        request: columnsOfTable(lookUp.schema, lookUp.table, [key, title]),
        inputs: {},
        fields: [key, title].map(({ name: field, type }) => ({ name: field, type })),
      },
      zone: 'UTC',
      where: allOf([]),
      fields: ['key', 'name'],
      order: [{ by: 'name' }],
      key: 'key',
      offset: 0,
      limit: mostChoices + 1,
    },
    { doing: 'listing what can be chosen', signal },
  );
  if (records.length > mostChoices) return null;
  return records.flatMap(([value, words]) =>
    value === null || value === undefined ? [] : [{ value: String(value), words: String(words ?? value) }],
  );
}
