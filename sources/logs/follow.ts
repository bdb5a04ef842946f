import { isUtf8 } from 'node:buffer';
import { once } from 'node:events';
import { createWriteStream } from 'node:fs';
import { z } from 'zod';
import { longestLine } from '#engine/columnar/lines.ts';
import { bytesFrom, digest, headOf, type LogFile } from './files.ts';

/** How far a file has been read. It is known by how it begins, so that a new name or packing changes nothing. */
const FilePosition = z.object({
  inode: z.string(),
  head: z.string(),
  headLength: z.int(),
  /** Bytes, unpacked. */
  offset: z.int(),
});
type FilePosition = z.infer<typeof FilePosition>;
export const LogPosition = z.object({ files: z.array(FilePosition) });
export type LogPosition = z.infer<typeof LogPosition>;

export interface Followed {
  readonly position: LogPosition;
  /** Bytes that were taken. */
  readonly bytes: number;
  /** There is more that was left for the next time. */
  readonly more: boolean;
}

export interface FollowOptions {
  readonly most: number;
  /**
   * Where the last record begins in some lines, in characters; null where none does. A record of several lines that may
   * still be growing is left for the next time, whole.
   */
  readonly lastRecord?: ((lines: string) => Promise<number | null>) | undefined;
  readonly signal?: AbortSignal | undefined;
}

/** A file that was not written to for so long has no record that is still growing. */
const settledMs = 10_000;

/** What is known of a file from before, whatever it is called now; null when it is new, or was emptied and begun again. */
function knownAs(file: LogFile, head: Buffer, before: readonly FilePosition[]): FilePosition | null {
  const begins = ({ head: known, headLength }: FilePosition): boolean =>
    headLength > 0 && head.length >= headLength && digest(head.subarray(0, headLength)) === known;
  return (
    before.find((known) => known.inode === file.inode && begins(known)) ??
    before.find((known) => known.inode !== file.inode && known.headLength >= 64 && begins(known)) ??
    null
  );
}

const newline = 0x0a;

/**
 * Appends to a file of ours every whole line that was written to log files since the last time. A line that has no end yet
 * waits for it, but in a packed file, which does not grow. At most `most` bytes are taken, so that a folder of any size is
 * read in turns.
 */
export async function followFiles(
  files: readonly LogFile[],
  before: LogPosition | null,
  into: string,
  { most, lastRecord, signal }: FollowOptions,
): Promise<Followed> {
  const out = createWriteStream(into);
  let bytes = 0;
  let more = false;
  const positions: FilePosition[] = [];
  const seen = new Set<string>();
  const matched = new Set<FilePosition>();
  try {
    for (const file of files) {
      const head = await headOf(file);
      const known = knownAs(file, head, before?.files ?? []);
      if (known) matched.add(known);
      const isShorter = known !== null && !file.isPacked && file.size < known.offset;
      let offset = known && !isShorter ? known.offset : 0;
      // The same content under two names, as while it is being packed, is one file.
      const name = `${digest(head)} ${head.length}`;
      if (head.length >= 64 && seen.has(name)) continue;
      seen.add(name);
      if (bytes >= most) more ||= file.isPacked ? known === null : file.size > offset;
      else if (file.isPacked || file.size > offset) {
        const taken = await takeLines(file, offset, out, { most: most - bytes, lastRecord, signal });
        offset += taken.bytes;
        bytes += taken.bytes;
        more ||= taken.more;
      }
      positions.push({ inode: file.inode, head: digest(head), headLength: head.length, offset });
    }
  } finally {
    out.end();
    await once(out, 'close');
  }
  // A file that is not there now may come back under another name.
  const gone = (before?.files ?? []).filter((each) => !matched.has(each)).slice(-1000);
  return { position: { files: [...gone, ...positions] }, bytes, more };
}

/** Writes the whole lines of a file from an offset on. Returns how many bytes of the file they are. */
async function takeLines(
  file: LogFile,
  offset: number,
  out: NodeJS.WritableStream,
  { most, lastRecord, signal }: FollowOptions,
): Promise<{ bytes: number; more: boolean }> {
  let skip = file.isPacked ? offset : 0;
  let taken = 0;
  let rest: Buffer = Buffer.alloc(0);
  // The latest lines wait until it is known whether more come after them.
  let waiting: Buffer = Buffer.alloc(0);
  const write = async (lines: Buffer): Promise<void> => {
    const before = waiting;
    waiting = lines;
    taken += before.length;
    if (before.length > 0 && !out.write(clean(before))) await once(out, 'drain');
  };
  const finish = async (): Promise<void> => {
    const isSettled = file.isPacked || Math.abs(Date.now() - file.changedMs) > settledMs;
    if (lastRecord && !isSettled) {
      const text = waiting.toString('latin1');
      const at = await lastRecord(text);
      if (at !== null) waiting = waiting.subarray(0, at);
    }
    await write(Buffer.alloc(0));
  };
  const source = bytesFrom(file, offset);
  try {
    for await (const read of source) {
      signal?.throwIfAborted();
      let piece = read as Buffer;
      if (skip > 0) {
        const passed = Math.min(skip, piece.length);
        skip -= passed;
        piece = piece.subarray(passed);
        if (piece.length === 0) continue;
      }
      const whole = rest.length > 0 ? Buffer.concat([rest, piece]) : piece;
      const end = whole.lastIndexOf(newline);
      if (end < 0) {
        rest = whole;
        // A line without end is cut, so that it cannot fill memory.
        if (rest.length > longestLine) {
          await write(rest);
          rest = Buffer.alloc(0);
        }
        continue;
      }
      await write(whole.subarray(0, end + 1));
      rest = whole.subarray(end + 1);
      if (taken + waiting.length >= most) {
        await finish();
        return { bytes: taken, more: true };
      }
    }
  } catch (thrown) {
    // A packed file that is cut off gives what there is of it; the rest comes when it is whole.
    if (!(thrown instanceof Error && 'code' in thrown && String(thrown.code).startsWith('Z_'))) throw thrown;
    rest = Buffer.alloc(0);
  } finally {
    source.destroy();
  }
  if (file.isPacked && rest.length > 0) await write(rest);
  await finish();
  return { bytes: taken, more: false };
}

/** Bytes as lines of UTF-8: other bytes are taken for Latin-1, NUL and the unit separator become spaces, long lines are cut. */
export function clean(bytes: Buffer): Buffer {
  let text = isUtf8(bytes) ? bytes : Buffer.from(bytes.toString('latin1'), 'utf8');
  for (const code of [0x00, 0x1f])
    if (text.includes(code)) {
      text = text === bytes ? Buffer.from(bytes) : text;
      for (let at = text.indexOf(code); at >= 0; at = text.indexOf(code, at + 1)) text[at] = 0x20;
    }
  const whole = text.length > longestLine ? withCuts(text) : text;
  return whole.at(-1) === newline ? whole : Buffer.concat([whole, Buffer.from('\n')]);
}

function withCuts(text: Buffer): Buffer {
  const pieces: Buffer[] = [];
  for (let from = 0; from < text.length; ) {
    const end = text.indexOf(newline, from);
    const to = end < 0 ? text.length : end + 1;
    for (let at = from; at < to; at += longestLine) {
      const piece = text.subarray(at, Math.min(to, at + longestLine));
      pieces.push(piece);
      if (at + longestLine < to) pieces.push(Buffer.from('\n'));
    }
    from = to;
  }
  return pieces.length > 1 ? Buffer.concat(pieces) : text;
}
