import type { DataSet } from '#core/dataset/schema.ts';
import { stepMakes } from '#core/dataset/step/kinds.ts';
import { allOf, type RecordsPlan } from '#core/plan/plan.ts';
import type { Field } from '#core/value/field/field.ts';
import type { Records } from '../records/answers.ts';
import { countRecords, runPlan } from '../records/run.ts';
import { relationAfter, type Shaping } from './shaping.ts';

export interface TraceStep {
  /** How many steps have been done; 0 is as the source gave it. */
  readonly steps: number;
  readonly fields: readonly Field[];
  readonly records: Records;
  readonly total: string;
}

const traceMost = 3;

/** A record through the steps: at each, the records that it came from, found by what has not changed since. */
export async function traceOf(
  shaping: Shaping,
  steps: number,
  record: Readonly<Record<string, string | null>>,
): Promise<TraceStep[]> {
  const all = shaping.definition.steps ?? [];
  const after = relationAfter(shaping, steps);
  // By name at the place looked at; a step back undoes a new name and lets go of what the step made.
  let known = new Map(
    after.fields
      .filter(({ type }) => type !== 'nested' && type !== 'float')
      .map(({ name }) => [name, record[name] ?? null] as const),
  );
  const found: TraceStep[] = [];
  for (let at = steps; at >= 0; at -= 1) {
    const from = relationAfter(shaping, at);
    const tests = [...known].filter(([name]) => from.fields.some((field) => field.name === name));
    const plan: RecordsPlan = {
      kind: 'records',
      from,
      zone: shaping.clock.zone,
      where: allOf(tests.map(([field, value]) => ({ field, test: { op: 'same', value } }))),
      fields: from.fields.map(({ name }) => name),
      order: [],
      offset: 0,
      limit: traceMost,
    };
    const asking = { doing: 'following the record', signal: shaping.signal };
    const [{ records }, total] = await Promise.all([runPlan(plan, asking), countRecords(plan, asking)]);
    found.unshift({ steps: at, fields: from.fields, records, total });
    const step = all[at - 1];
    if (step && !step.off) known = undone(step, known, relationAfter(shaping, at - 1).fields);
  }
  return found;
}

/** What is still known of a record before a step. */
function undone(
  step: NonNullable<DataSet['steps']>[number],
  known: ReadonlyMap<string, string | null>,
  before: readonly Field[],
): Map<string, string | null> {
  if (step.kind === 'rename') {
    const value = known.get(step.as);
    const rest = [...known].filter(([name]) => name !== step.as);
    return new Map(value === undefined ? rest : [...rest, [step.field, value]]);
  }
  if (step.kind === 'summarise')
    return new Map(
      step.by.flatMap(({ field, unit, as }) => {
        const value = known.get(as);
        return unit || value === undefined ? [] : [[field, value] as const];
      }),
    );
  if (step.kind === 'wide') return new Map([...known].filter(([name]) => step.by.includes(name)));
  const makes = stepMakes(step, before);
  return new Map([...known].filter(([name]) => !makes.includes(name)));
}
