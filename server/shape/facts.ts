import { everybody } from '#core/ask/condition/resolve.ts';
import type { OfferedData } from '#core/dashboard/pane/kind.ts';
import type { FieldFacts } from '#core/dashboard/propose.ts';
import { keyAndTitle } from '#core/dataset/naming.ts';
import { type RecordsPlan, totals } from '#core/plan/plan.ts';
import { relationWith } from '#core/plan/relation.ts';
import { isTemporal } from '#core/value/field/value.ts';
import { runPlan } from '../records/run.ts';
import { sampleInputs } from '../sample-inputs.ts';
import { worldOf } from '../store/data-sets.ts';
import { zoneOf } from '../store/zone.ts';

/** This many records tell which fields have few values. */
const looked = 1000;

/** What some records of a data set show of its fields. Where they cannot be read, nothing is known: what is proposed then goes without. */
export async function factsOf({ id, dataSet }: OfferedData, signal: AbortSignal): Promise<FieldFacts> {
  const doing = 'looking at the records';
  const visible = dataSet.fields.filter(({ hidden, type }) => !hidden && type !== 'nested');
  const time = visible.find(({ type }) => isTemporal(type));
  const fields = visible
    .filter(({ name, type }) => type === 'text' && !keyAndTitle(dataSet).includes(name))
    .map(({ name }) => name);
  try {
    const zone = await zoneOf(id);
    const from = relationWith(dataSet, id, sampleInputs(dataSet.inputs, doing), {
      world: await worldOf(dataSet),
      clock: { now: new Date(), zone },
      person: everybody,
    });
    const some: RecordsPlan = {
      kind: 'records',
      from,
      where: { all: [] },
      zone,
      fields,
      order: [],
      offset: 0,
      limit: looked,
    };
    const latest = time
      ? totals(from, zone, [{ name: 'latest', calculation: { kind: 'greatest', field: time.name } }])
      : null;
    const [found, greatest] = await Promise.all([
      fields.length > 0 ? runPlan(some, { doing, signal }) : null,
      latest ? runPlan(latest, { doing, signal }) : null,
    ]);
    const different = (at: number): number =>
      new Set(found?.records.flatMap((record) => (record[at] === null ? [] : [record[at]]))).size;
    const moment = greatest?.records[0]?.[0] ?? null;
    return {
      different: Object.fromEntries(fields.map((name, at) => [name, different(at)])),
      latest: moment === null ? null : String(moment),
    };
  } catch {
    return { different: {}, latest: null };
  }
}
