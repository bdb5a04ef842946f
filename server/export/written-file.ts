import { randomUUID } from 'node:crypto';
import { createReadStream, mkdirSync, rmSync } from 'node:fs';
import path from 'node:path';
import { Readable } from 'node:stream';
import type { ReadableStream as WebStream } from 'node:stream/web';
import { cacheFolder } from '../kept/cache.ts';

const idleMs = 120_000;

/** Writes a file and gives its bytes; the file is gone once they were taken, or nobody wants them any more. */
export async function writtenFile(
  ending: string,
  write: (file: string) => Promise<void>,
): Promise<ReadableStream<Uint8Array>> {
  const folder = path.join(cacheFolder(), `writing-${process.pid}-${randomUUID()}`);
  mkdirSync(folder, { recursive: true });
  const file = path.join(folder, `records.${ending}`);
  try {
    await write(file);
  } catch (thrown) {
    rmSync(folder, { recursive: true, force: true });
    throw thrown;
  }
  const bytes = createReadStream(file);
  // What nobody takes for so long is given up.
  let seen = 0;
  const watch = setInterval(() => {
    if (bytes.bytesRead === seen) bytes.destroy();
    seen = bytes.bytesRead;
  }, idleMs);
  bytes.once('close', () => {
    clearInterval(watch);
    rmSync(folder, { recursive: true, force: true });
  });
  return Readable.toWeb(bytes) as WebStream<Uint8Array> as ReadableStream<Uint8Array>;
}
