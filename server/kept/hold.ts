import type { Spans } from '#core/dataset/kept/spans.ts';
import { ProblemError } from '#core/value/problem/problem.ts';
import type { KeptField } from '#engine/columnar/kept-field.ts';
import { runChecks } from '../checks/run.ts';
import { dependentsOf, type StoredDataSet } from '../store/data-sets.ts';
import { cachedSegment } from './cache.ts';
import { defineView } from './open.ts';

/** A version that readers would be given next. */
interface NextVersion {
  readonly version: string;
  readonly segments: readonly { hash: string; records: number }[];
  readonly fields: readonly KeptField[];
  readonly spans: Spans;
  readonly trueAt: Date;
}

/** Tries the checks on what readers would be given. Throws a {@link ProblemError} where one that holds back is not met. */
export async function heldBack(
  { id, name, definition }: Pick<StoredDataSet, 'id' | 'name' | 'definition'>,
  { version, segments, fields, spans, trueAt }: NextVersion,
): Promise<void> {
  const dependent = await dependentsOf(id);
  const checked = [{ id, name, definition }, ...dependent].filter((each) => each.definition.checks?.length);
  if (checked.length === 0) return;
  const view = `checking ${version}`;
  const files = await Promise.all(segments.map(({ hash }) => cachedSegment(hash)));
  await defineView(view, files, fields);
  const candidate = { dataSetId: id, view, fields, spans, trueAt: trueAt.toISOString() };
  for (const each of checked) {
    const tried = await runChecks({ id: each.id, definition: each.definition, now: trueAt, candidate });
    const broken = tried.find(({ state, holds }) => holds && state === 'broken');
    if (broken)
      throw new ProblemError({
        code: 'bad-request',
        doing: `refreshing “${name}”`,
        why: `the check “${broken.name}” of “${each.name}” holds the new records back: ${broken.found}`,
        mend: 'Readers keep the records before. Mend the records at their source, or let the check only mark them.',
      });
  }
}
