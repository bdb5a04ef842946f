import { randomUUID } from 'node:crypto';
import { createReadStream, createWriteStream, mkdirSync, readdirSync, rmSync, statSync } from 'node:fs';
import { rm } from 'node:fs/promises';
import path from 'node:path';
import { Readable, Transform } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import type { ReadableStream } from 'node:stream/web';
import { createGunzip } from 'node:zlib';
import type { FileReading } from '#core/dataset/upload.ts';
import { formatNumber } from '#core/value/format/format.ts';
import { diskProblem, ProblemError } from '#core/value/problem/problem.ts';
import { fileHead } from '#engine/columnar/file-head.ts';
import { cacheFolder } from '../kept/cache.ts';
import { settings } from '../settings.ts';

/* Files that people upload: streamed to disk under a name of ours, never trusted by theirs, and cleared after a day. */

const keptMs = 86_400_000;

function folder(): string {
  const place = path.join(cacheFolder(), 'uploads');
  mkdirSync(place, { recursive: true });
  return place;
}

/** The file of an upload. The id is one that we made, so that no path can be asked for. */
export const uploadedFile = (id: string): string => path.join(folder(), path.basename(id));

const problem = (why: string, mend: string): ProblemError =>
  new ProblemError({ code: 'bad-request', doing: 'taking the file in', why, mend });

/** Lets this many bytes through, and no more. */
function atMost(bytes: number, what: string): Transform {
  let seen = 0;
  return new Transform({
    transform(piece: Buffer, _, done) {
      seen += piece.length;
      if (seen > bytes)
        done(
          problem(
            `${what} is larger than ${formatNumber(String(Math.round(bytes / 1e6)))} MB`,
            'Split it, or have whoever runs this installation allow more (SLATE_UPLOAD_MB).',
          ),
        );
      else done(null, piece);
    },
  });
}

const isGzip = (head: Buffer): boolean => head[0] === 0x1f && head[1] === 0x8b;

/** Whether a beginning can be UTF-8; a letter that is cut off at its end says nothing. */
function isUtf8(head: Buffer): boolean {
  try {
    new TextDecoder('utf-8', { fatal: true }).decode(head, { stream: true });
    return true;
  } catch {
    return false;
  }
}

/** What a file is, by what it holds. */
export function readingOf(head: Buffer): FileReading {
  if (head.subarray(0, 4).toString('latin1') === 'PAR1') return { kind: 'parquet' };
  if (head.subarray(0, 4).toString('latin1') === 'PK\u0003\u0004') return { kind: 'sheet' };
  if (head[0] === 0xff && head[1] === 0xfe) return { kind: 'delimited', encoding: 'utf-16' };
  const text = head
    .toString('utf8')
    .replace(/^\uFEFF/, '')
    .trimStart();
  if (/^[[{]/.test(text)) return { kind: 'json' };
  return isUtf8(head) ? { kind: 'delimited' } : { kind: 'delimited', encoding: 'latin-1' };
}

/** Takes a file in and unpacks it where it is packed. What is cut off or too large leaves nothing behind. */
export async function receiveFile(
  body: ReadableStream<Uint8Array> | null,
): Promise<{ id: string; size: number }> {
  if (!body) throw problem('nothing was sent', 'Choose a file.');
  tidyUploads();
  const id = randomUUID();
  const file = uploadedFile(id);
  const most = settings().SLATE_UPLOAD_MB * 1_000_000;
  const out = createWriteStream(file);
  try {
    await pipeline(Readable.fromWeb(body), atMost(most, 'it'), out);
    if (isGzip(await fileHead(file, 2))) {
      const packed = `${file}.gz`;
      await pipeline(createReadStream(file), createWriteStream(packed));
      try {
        await pipeline(
          createReadStream(packed),
          createGunzip(),
          atMost(most * 4, 'what is packed in it'),
          createWriteStream(file),
        );
      } finally {
        rmSync(packed, { force: true });
      }
    }
    const { size } = statSync(file);
    if (size === 0) throw problem('it is empty', 'Choose another file.');
    return { id, size };
  } catch (thrown) {
    // A file that is still being opened would come into being after it was removed.
    if (!out.closed) await new Promise<void>((resolve) => out.once('close', () => resolve()));
    rmSync(file, { force: true });
    if (thrown instanceof ProblemError) throw thrown;
    const { code, message } = thrown as NodeJS.ErrnoException;
    const full = diskProblem(thrown, 'taking the file in');
    if (full) throw full;
    throw problem(
      code?.startsWith('Z_') ? `its packing is broken (${message})` : 'it did not arrive whole',
      'Send it again.',
    );
  }
}

/** How an uploaded file is read unless somebody says otherwise. Throws a {@link ProblemError} when it has gone. */
export async function usualReading(id: string): Promise<FileReading> {
  const head = await fileHead(uploadedFile(id), 262_144).catch(() => null);
  if (head === null) throw problem('it is not here any more', 'Upload it again.');
  return readingOf(head);
}

/** Lets go of an uploaded file; what is left of it is cleared in time. The disk takes a while to take a large one back. */
export async function dropUpload(id: string): Promise<void> {
  const files = [uploadedFile(id), `${uploadedFile(id)}.written`, `${uploadedFile(id)}.sheet`];
  await Promise.allSettled(files.map((file) => rm(file, { force: true })));
}

/** Clears what was uploaded and never accepted. */
export function tidyUploads(now = Date.now()): void {
  for (const name of readdirSync(folder())) {
    const file = path.join(folder(), name);
    if (now - (statSync(file, { throwIfNoEntry: false })?.mtimeMs ?? now) > keptMs)
      rmSync(file, { force: true });
  }
}
