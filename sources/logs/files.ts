import { createHash } from 'node:crypto';
import { createReadStream, type Dirent } from 'node:fs';
import { open, readdir, realpath, stat } from 'node:fs/promises';
import path from 'node:path';
import type { Readable } from 'node:stream';
import { createGunzip } from 'node:zlib';
import picomatch from 'picomatch';
import { ProblemError } from '#core/value/problem/problem.ts';

export interface LogFile {
  /** Relative to the folder. */
  readonly name: string;
  readonly place: string;
  readonly inode: string;
  readonly size: number;
  readonly changedMs: number;
  readonly isPacked: boolean;
}

const refused = (why: string, mend: string): ProblemError =>
  new ProblemError({ code: 'forbidden', doing: 'opening the folder', why, mend });

const isUnder = (place: string, folder: string): boolean =>
  place === folder || place.startsWith(`${folder}${path.sep}`);

/** The folder where it really is, when it is one of those listed or within one. Throws a {@link ProblemError}. */
export async function listedFolder(folder: string, listed: readonly string[]): Promise<string> {
  const real = await realpath(folder).catch(() => null);
  if (real === null)
    throw new ProblemError({
      code: 'missing',
      doing: 'opening the folder',
      why: `there is no folder ${folder}`,
      mend: 'Check the path.',
    });
  const allowed = await Promise.all(listed.map((each) => realpath(each).catch(() => null)));
  if (!allowed.some((each) => each !== null && isUnder(real, each)))
    throw refused(
      listed.length === 0
        ? 'no folder has been listed for logs'
        : `it is none of the folders that may be read: ${listed.join(', ')}`,
      'Have whoever runs this installation list it in SLATE_LOG_FOLDERS.',
    );
  return real;
}

const mostFiles = 10_000;
const mostDepth = 12;

/** The files under a folder that a glob names, the oldest first. Links that lead out of the folder are passed over. */
export async function findFiles(folder: string, glob: string): Promise<LogFile[]> {
  const matches = picomatch(glob, { dot: false });
  const found: LogFile[] = [];
  const walk = async (inside: string, depth: number): Promise<void> => {
    if (depth > mostDepth || found.length >= mostFiles) return;
    const entries: Dirent[] = await readdir(path.join(folder, inside), { withFileTypes: true }).catch(
      () => [],
    );
    for (const entry of entries) {
      const name = path.join(inside, entry.name);
      if (entry.isDirectory()) await walk(name, depth + 1);
      else if (matches(name)) {
        const real = await realpath(path.join(folder, name)).catch(() => null);
        if (real === null || !isUnder(real, folder)) continue;
        const about = await stat(real, { bigint: true }).catch(() => null);
        if (!about?.isFile()) continue;
        found.push({
          name,
          place: real,
          inode: String(about.ino),
          size: Number(about.size),
          changedMs: Number(about.mtimeMs),
          isPacked: await isGzip(real),
        });
      }
    }
  };
  await walk('', 0);
  return found.sort((a, b) => a.changedMs - b.changedMs || (a.name < b.name ? -1 : 1));
}

async function isGzip(place: string): Promise<boolean> {
  const head = await pieceOf(place, 0, 2);
  return head[0] === 0x1f && head[1] === 0x8b;
}

export async function pieceOf(place: string, from: number, length: number): Promise<Buffer> {
  const handle = await open(place).catch(() => null);
  if (!handle) return Buffer.alloc(0);
  try {
    const { buffer, bytesRead } = await handle.read(Buffer.alloc(length), 0, length, from);
    return buffer.subarray(0, bytesRead);
  } finally {
    await handle.close();
  }
}

/** The bytes of a file from an offset on; of a packed file those that are packed in it. */
export function bytesFrom(file: LogFile, offset: number): Readable {
  if (!file.isPacked) return createReadStream(file.place, { start: offset, highWaterMark: 1 << 20 });
  const unpacked = createGunzip();
  const packed = createReadStream(file.place, { highWaterMark: 1 << 20 });
  packed.once('error', (error) => unpacked.destroy(error));
  packed.pipe(unpacked);
  unpacked.once('close', () => packed.destroy());
  return unpacked;
}

const headBytes = 1024;

/** The first bytes of a file, unpacked: what it is known by however it is renamed or packed. */
export async function headOf(file: LogFile): Promise<Buffer> {
  if (!file.isPacked) return pieceOf(file.place, 0, headBytes);
  const pieces: Buffer[] = [];
  let size = 0;
  try {
    for await (const piece of bytesFrom(file, 0)) {
      pieces.push(piece as Buffer);
      size += (piece as Buffer).length;
      if (size >= headBytes) break;
    }
  } catch {
    // A packed file that is cut off is known by what can be read of it.
  }
  return Buffer.concat(pieces).subarray(0, headBytes);
}

export const digest = (bytes: Buffer): string => createHash('sha256').update(bytes).digest('hex');
