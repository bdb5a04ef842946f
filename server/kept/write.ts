import { readFile } from 'node:fs/promises';
import { joinSpans, type Spans } from '#core/kept/spans.ts';
import type { WrittenSegment } from '#engine/columnar/segment.ts';
import type { Forget, KeptField, SegmentWriter, WriterField } from '#engine/columnar/writer.ts';
import { type KeptVersion, storeSegment } from '../store/kept.ts';
import { cachedSegment, cacheFolder } from './cache.ts';

export interface Beside {
  /** The version whose records stay; null: what is written is all there is. */
  readonly before: KeptVersion | null;
  /** New records take the place of those with the same value here. */
  readonly key?: string | undefined;
  /** Records before a moment (ISO 8601) are let go, the new ones too. */
  readonly forget?: Forget | undefined;
}

/** What a next version is made of. */
export interface Written {
  readonly fields: readonly KeptField[];
  /** Segments of the version before, those that had to change written anew. */
  readonly older: readonly { readonly hash: string; readonly records: number }[];
  readonly fresh: readonly WrittenSegment[];
  readonly spans: Spans;
}

/**
 * Writes what a writer holds as segments beside those of the version before, and stores them. Readers have none of it
 * until a version names it.
 */
export async function writeBeside(
  writer: SegmentWriter,
  fields: readonly WriterField[],
  { before, key, forget }: Beside,
): Promise<Written> {
  const folder = cacheFolder();
  const scaled = await writer.scaled(fields, before?.fields);
  await writer.type(scaled, { key, forget });
  const fresh = await writer.write(folder);
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
  const spans = joinSpans(before?.spans ?? {}, await writer.spans(scaled, fresh));
  return { fields: scaled, older, fresh, spans };
}

export async function storeAll(segments: readonly WrittenSegment[]): Promise<void> {
  for (const segment of segments) await storeSegment(segment, await readFile(segment.file));
}
