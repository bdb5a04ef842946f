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

/** Gives a file the name of its content (SHA-256) and its place. */
export async function placeSegment(file: string, into: string, records: number): Promise<WrittenSegment> {
  const hash = createHash('sha256');
  for await (const piece of createReadStream(file)) hash.update(piece as Buffer);
  const name = hash.digest('hex');
  const { size } = await stat(file);
  const place = path.join(into, `${name}.parquet`);
  await rename(file, place);
  return { hash: name, file: place, size, records };
}
