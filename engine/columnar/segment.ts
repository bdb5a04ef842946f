import { createHash } from 'node:crypto';
import { createReadStream } from 'node:fs';
import { rename, stat } from 'node:fs/promises';
import path from 'node:path';

/** A Parquet file named after its content. */
export interface WrittenSegment {
  readonly hash: string;
  readonly file: string;
  /** Bytes. */
  readonly size: number;
  readonly records: number;
}

/** A Parquet file that is no segment yet. */
export interface WrittenFile {
  readonly file: string;
  readonly records: number;
}

async function hashOf(file: string): Promise<string> {
  const hash = createHash('sha256');
  for await (const piece of createReadStream(file)) hash.update(piece as Buffer);
  return hash.digest('hex');
}

/** Gives a file the name of its content (SHA-256) and its place, once `meanwhile` no longer reads it where it is. */
export async function placeSegment(
  { file, records }: WrittenFile,
  into: string,
  meanwhile?: Promise<unknown>,
): Promise<WrittenSegment> {
  const hash = await hashOf(file);
  await meanwhile;
  const { size } = await stat(file);
  const place = path.join(into, `${hash}.parquet`);
  await rename(file, place);
  return { hash, file: place, size, records };
}

export async function placeSegments(
  files: readonly WrittenFile[],
  into: string,
  meanwhile?: Promise<unknown>,
): Promise<WrittenSegment[]> {
  const segments: WrittenSegment[] = [];
  for (const file of files) segments.push(await placeSegment(file, into, meanwhile));
  return segments;
}
