import { everybody } from '#core/ask/condition/resolve.ts';
import type { Check, DataSet } from '#core/dataset/schema.ts';
import type { World } from '#core/dataset/world.ts';
import { type CheckResult, checkPlan, resultOf } from '#core/plan/check.ts';
import { relationAsRead } from '#core/plan/relation.ts';
import type { Clock } from '#core/value/period/period.ts';
import { problemOf } from '#core/value/problem/problem.ts';
import type { Records } from '../records/answers.ts';
import type { Candidate } from '../records/place.ts';
import { runPlan } from '../records/run.ts';
import { storeChecks, type TriedCheck } from '../store/checks.ts';
import { worldOf } from '../store/data-sets.ts';
import { zoneOf } from '../store/zone.ts';

interface About {
  readonly id: string;
  readonly definition: DataSet;
  readonly now: Date;
  /** Records that are about to be given to readers; without them those that readers have are tried. */
  readonly candidate?: Candidate | undefined;
}

async function clockAt(dataSetId: string, now: Date): Promise<Clock> {
  return { now, zone: await zoneOf(dataSetId) };
}

/** Tries every check of a data set and remembers what each came to. A check that cannot be tried says why. */
export async function runChecks(about: About): Promise<TriedCheck[]> {
  const { id, definition, now, candidate } = about;
  const checks = definition.checks ?? [];
  if (checks.length === 0) return [];
  const [world, clock] = await Promise.all([worldOf(definition), clockAt(id, now)]);
  const tried: TriedCheck[] = [];
  for (const check of checks) tried.push(await tryCheck(check, about, world, clock, candidate));
  await storeChecks(id, now, tried);
  return tried;
}

async function tryCheck(
  check: Check,
  about: About,
  world: World,
  clock: Clock,
  candidate: Candidate | undefined,
): Promise<TriedCheck> {
  const doing = `trying the check “${check.name}”`;
  try {
    const { plan } = checkPlan(
      check,
      about.definition,
      relationAsRead(about.definition, about.id, { world, clock, person: everybody }),
      clock,
    );
    const { records } = await runPlan(plan, { doing, candidate });
    const result: CheckResult = resultOf(check, records[0] ?? [], about.definition, clock);
    return { ...result, holds: check.holds };
  } catch (thrown) {
    const found = problemOf(thrown, doing).why;
    return { name: check.name, state: 'untried', failing: '0', of: '', found, holds: check.holds };
  }
}

export interface FailingRecords {
  readonly fields: readonly string[];
  readonly records: Records;
}

/** The first records that are not as a check expects. */
export async function failingRecords(
  about: Omit<About, 'candidate'>,
  check: Check,
  signal?: AbortSignal,
): Promise<FailingRecords> {
  const [world, clock] = await Promise.all([worldOf(about.definition), clockAt(about.id, about.now)]);
  const { failing } = checkPlan(
    check,
    about.definition,
    relationAsRead(about.definition, about.id, { world, clock, person: everybody }),
    clock,
  );
  if (!failing) return { fields: [], records: [] };
  const { records } = await runPlan(failing, { doing: `finding what fails “${check.name}”`, signal });
  return { fields: failing.fields, records };
}
