import { readFile } from 'node:fs/promises';
import { mostDigits } from '#core/dataset/kept/guess.ts';
import { joinSpans, type Spans } from '#core/dataset/kept/spans.ts';
import { counted } from '#core/value/format/counted.ts';
import { ProblemError } from '#core/value/problem/problem.ts';
import type { KeptField, WriterField } from '#engine/columnar/kept-field.ts';
import type { WrittenSegment } from '#engine/columnar/segment.ts';
import { spansIn } from '#engine/columnar/segment-facts.ts';
import type { Forget, SegmentWriter } from '#engine/columnar/writer.ts';
import { type KeptVersion, storeSegment } from '../store/kept.ts';
import { cachedSegment, cacheFolder } from './cache.ts';

export interface Beside {
  /** The version whose records stay; null: what is written is all there is. */
  readonly before: KeptVersion | null;
  /** New records take the place of those with the same value here. */
  readonly key?: string | undefined;
  /** Records before a moment (ISO 8601) are let go, the new ones too. */
  readonly forget?: Forget | undefined;
  /** What is being done, for the problem when a value is not of its field's type. */
  readonly doing: string;
}

/** What a next version is made of. */
export interface WrittenVersion {
  readonly fields: readonly KeptField[];
  /** Segments of the version before, those that had to change written again. */
  readonly older: readonly { readonly hash: string; readonly records: number }[];
  readonly fresh: readonly WrittenSegment[];
  readonly spans: Spans;
}

/** Throws a {@link ProblemError} that names the first field with values that are not of its type, how many, and some of them. */
async function refuseMisfits(
  writer: SegmentWriter,
  fields: readonly WriterField[],
  doing: string,
): Promise<void> {
  for (const { name, type } of fields) {
    if (type === 'text' || type === 'nested') continue;
    const { count, examples } = await writer.misfits(name, type, 3);
    if (count === 0) continue;
    const isTooLong =
      type === 'decimal' && examples.every((text) => /^[-+]?([\d.]+|nan|inf(inity)?)$/i.test(text.trim()));
    const cannot = isTooLong
      ? `be kept as decimal, which has ${mostDigits} digits at most`
      : `be read as ${type}`;
    throw new ProblemError({
      code: 'bad-request',
      doing,
      why: `${counted(count, 'value')} of “${name}” cannot ${cannot}, such as “${examples.map((each) => each.slice(0, 100)).join('”, “')}”`,
      mend: 'Take the field as text, or correct the records where they come from.',
      misfit: name,
    });
  }
}

/**
 * Writes what a writer holds as segments beside those of the version before, and stores them. Readers have none of it
 * until a version names it. Throws a {@link ProblemError} that names the field where a value is not of its type.
 */
export async function writeBeside(
  writer: SegmentWriter,
  fields: readonly WriterField[],
  { before, key, forget, doing }: Beside,
): Promise<WrittenVersion> {
  const folder = cacheFolder();
  const scaled = await writer.scaled(fields, before?.fields);
  let fresh: WrittenSegment[];
  try {
    await writer.type(scaled, { key, forget });
    fresh = await writer.write(folder);
  } catch (thrown) {
    // Looking for what does not fit reads the records again for each field, so it is done only when something does not.
    await refuseMisfits(writer, fields, doing);
    throw thrown;
  }
  const grew = scaled.some(({ scale, digits }, at) => {
    const old = before?.fields[at];
    return scale !== old?.scale || digits !== old?.digits;
  });
  const older: { hash: string; records: number }[] = [];
  for (const segment of before?.segments ?? []) {
    const file = await cachedSegment(segment.hash);
    const next = await writer.rewritten(file, scaled, { key, forget, scaled: grew }, folder);
    if (next) await storeAll(next);
    older.push(...(next ?? [segment]));
  }
  await storeAll(fresh);
  const spans = joinSpans(before?.spans ?? {}, await spansIn(fresh, scaled, writer));
  return { fields: scaled, older, fresh, spans };
}

export async function storeAll(segments: readonly WrittenSegment[]): Promise<void> {
  for (const segment of segments) await storeSegment(segment, await readFile(segment.file));
}
