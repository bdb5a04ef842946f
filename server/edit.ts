import type { LoaderFunctionArgs } from 'react-router';
import type { z } from 'zod';
import { sameJson } from '#core/dashboard/compare.ts';
import { keepProblem } from '#core/dataset/keep-problem.ts';
import { lostNeeds } from '#core/dataset/lost.ts';
import { refsOf, startOf, withOutcome } from '#core/dataset/outcome.ts';
import type { DataSet } from '#core/dataset/schema.ts';
import { shape } from '#core/dataset/step/kinds.ts';
import { comesFrom } from '#core/lineage/reach.ts';
import { ownDatabaseProblem, problemOf } from '#core/value/problem/problem.ts';
import { capital } from '#core/words/capital.ts';
import { kindOf } from '#sources/registry.ts';
import { guardedAction, type Need, type Signed } from './guard.ts';
import { cannotKeep } from './kept/cannot-keep.ts';
import { openSource } from './sources/open.ts';
import type { SaveOutcome } from './store/dashboards.ts';
import { findDataSet, worldOf } from './store/data-sets.ts';
import { findSource } from './store/sources.ts';

/** What a save came to, told to the page that asked for it. */
export type SaveAnswer =
  | {
      readonly state: 'saved';
      readonly revision: number;
      /** What somebody else did to other parts of it, which is kept beside it. */
      readonly meanwhile?: readonly string[];
      /** Where one goes on. */
      readonly to?: string;
    }
  | { readonly state: 'refused'; readonly why: string[] }
  /** It could not be stored just now: the same may be sent again. */
  | { readonly state: 'unsent'; readonly why: string }
  /** Somebody else saved in between: who, when, and what is different now. */
  | {
      readonly state: 'crossed';
      readonly by: string;
      readonly at: string;
      readonly revision: number;
      readonly changes: string[];
    };

/** A save, which the page that asked for it waits for with all that was typed in it: that our own database is away or full is an answer too. */
export const guardedSave = <Args extends LoaderFunctionArgs>(
  need: Need,
  run: (args: Signed<Args>) => Promise<SaveAnswer>,
) =>
  guardedAction(need, async (args: Signed<Args>): Promise<SaveAnswer> => {
    try {
      return await run(args);
    } catch (thrown) {
      const problem = ownDatabaseProblem(thrown, 'saving');
      if (!problem) throw thrown;
      return { state: 'unsent', why: `${capital(problem.why)}. ${problem.mend}` };
    }
  });

export const saveAnswer = (saved: SaveOutcome, changes: string[]): SaveAnswer =>
  saved.ok
    ? { state: 'saved', revision: saved.revision }
    : { state: 'crossed', by: saved.by, at: saved.at.toISOString(), revision: saved.revision, changes };

/** What is wrong with a definition, one sentence for each place. */
export const refuseEdit = (error: z.ZodError): SaveAnswer => ({
  state: 'refused',
  why: error.issues
    .slice(0, 8)
    .map(({ path, message }) => `${path.join(' › ') || 'The definition'}: ${message}`),
});

/** A data set as it is to be saved, with the fields that its steps give now; or what is wrong with it. */
export async function settledDataSet(
  id: string,
  definition: DataSet,
): Promise<{ readonly definition: DataSet } | { readonly wrong: SaveAnswer }> {
  const because = (...why: string[]) => ({ wrong: { state: 'refused' as const, why } });
  const world = await worldOf(definition);
  if (refsOf(definition).some(({ dataSet }) => comesFrom(dataSet, world).has(id)))
    return because('a step leads back to this data set itself, through the ones it looks up');
  const settled = withOutcome(definition, world);
  const problems = shape(startOf(settled), settled.steps ?? [], world).problems.flatMap((problem, at) =>
    problem === null ? [] : [`Step ${at + 1}: ${problem}`],
  );
  if (problems.length > 0) return because(...problems);
  for (const { name, allowed } of settled.inputs)
    if (allowed && !world.get(allowed.dataSet)?.fields.some((field) => field.name === allowed.field))
      return because(`the input “${name}” may only have values of a field that is not there`);
  const missing = lostNeeds(settled);
  if (missing.length > 0) return because(...missing);
  const wrong = await refusedDataSet(settled, (await findDataSet(id))?.definition);
  return wrong ? { wrong } : { definition: settled };
}

/**
 * What is wrong with a data set that is about to be saved, or null: the request must be one that its source can be asked. One
 * that stays as it was is not looked at again, so that a data set can be worked on while its source is away.
 */
async function refusedDataSet(definition: DataSet, before: DataSet | undefined): Promise<SaveAnswer | null> {
  const because = (why: string): SaveAnswer => ({ state: 'refused', why: [why] });
  const kept = keepProblem(definition);
  if (kept) return because(kept);
  const { request } = definition;
  const source = await findSource(definition.source);
  if (!source) return because('the source no longer exists');
  if (request.kind === 'of' || request.kind === 'upload') return null;
  if (!kindOf(source.connection).requests.includes(request.kind))
    return because('its source cannot be asked in that way');
  const isSame = before?.source === definition.source && sameJson(before.request, request);
  if (definition.keep && !(isSame && before.keep)) {
    const why = await cannotKeep(definition);
    if (why.length > 0) return { state: 'refused', why };
  }
  if (isSame) return null;
  try {
    const wrong = await (await openSource(definition.source)).check(request);
    return wrong === null ? null : because(wrong);
  } catch (thrown) {
    return because(problemOf(thrown, 'checking the request').why);
  }
}
