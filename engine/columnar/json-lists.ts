import { createReadStream, createWriteStream } from 'node:fs';
import { pipeline } from 'node:stream/promises';

/*
 * A JSON document that is one object holds its records in a list somewhere in it: {"data": [{…}, {…}]}. Such lists are found,
 * and their records written one a line, without the document ever being in memory: bytes are copied, never read as values,
 * so that every digit stays as it is (RFC 8259).
 */

/** A list of a document, by the names that lead to it, and how many records it holds. */
export interface FoundList {
  readonly at: readonly string[];
  readonly records: number;
}

/** How deep lists are looked for, and how many are offered. */
const deepest = 4;
const mostLists = 50;
/** Bytes of a piece that a file is read in. */
const usualPiece = 1 << 16;

const [quote, backslash, comma, openList, closeList, openObject, closeObject] = [
  ...Buffer.from('"\\,[]{}'),
] as [number, number, number, number, number, number, number];
const isSpace = (byte: number): boolean => byte === 32 || (byte >= 9 && byte <= 13);

/** Where the walk is: in an object (under which name, the last that was read) or in a list. */
interface Level {
  readonly isList: boolean;
  name: string;
  /** Of an object: whether a text that comes is a name. */
  isNameNext: boolean;
}

interface Walked {
  /** At each bracket, once it is known what it begins or ends: how deep it stands, and where in the piece. */
  readonly open?: (path: readonly Level[], byte: number, at: number) => void;
  readonly close?: (path: readonly Level[], byte: number, at: number) => void;
  /** A comma between what stands on one level. */
  readonly between?: (path: readonly Level[], at: number) => void;
}

/** Walks through a document, piece by piece. */
class Walk {
  private readonly path: Level[] = [];
  private inText = false;
  private isEscaped = false;
  /** The parts of a name that is being read; null while a text is read that is not a name, or one that nobody needs. */
  private name: Buffer[] | null = null;
  private lists = 0;
  private isBare = false;
  /** How many values the document has had on its outermost level, and whether the first of them is an object. */
  values = 0;
  isObject = false;

  constructor(private readonly on: Walked) {}

  take(piece: Buffer): void {
    for (let at = 0; at < piece.length; at += 1) {
      if (this.inText) {
        at = this.text(piece, at);
        continue;
      }
      const byte = piece[at] as number;
      if (byte === quote) {
        if (this.path.length === 0) this.values += 1;
        this.inText = true;
        // Only the names that lead to a list are of any use.
        if (this.lists === 0 && this.path.at(-1)?.isNameNext) this.name = [];
      } else if (byte === openObject || byte === openList) this.open(byte, at);
      else if (byte === closeObject || byte === closeList) {
        if (this.path.pop()?.isList) this.lists -= 1;
        this.on.close?.(this.path, byte, at);
      } else if (byte === comma) {
        const top = this.path.at(-1);
        if (top) top.isNameNext = !top.isList;
        this.on.between?.(this.path, at);
      } else if (this.path.length === 0) this.outside(byte);
    }
  }

  private open(byte: number, at: number): void {
    if (this.path.length === 0) {
      this.values += 1;
      this.isObject ||= this.values === 1 && byte === openObject;
    }
    this.on.open?.(this.path, byte, at);
    const isList = byte === openList;
    if (isList) this.lists += 1;
    this.path.push({ isList, name: '', isNameNext: !isList });
  }

  /** A bare value outside all brackets. */
  private outside(byte: number): void {
    if (!isSpace(byte) && !this.isBare) this.values += 1;
    this.isBare = !isSpace(byte);
  }

  /** Goes on in a text until it ends or the piece does; gives the place of the last byte seen. */
  private text(piece: Buffer, from: number): number {
    let at = from;
    if (this.isEscaped) {
      this.isEscaped = false;
      at += 1;
    }
    const { length } = piece;
    for (; at < length; at += 1) {
      const byte = piece[at];
      if (byte === quote) {
        this.name?.push(piece.subarray(from, at));
        this.inText = false;
        this.endName();
        return at;
      }
      if (byte === backslash) at += 1;
    }
    this.isEscaped = at > length;
    this.name?.push(piece.subarray(from));
    return length;
  }

  private endName(): void {
    const top = this.path.at(-1);
    if (!this.name || !top) return;
    const written = Buffer.concat(this.name).toString('utf8');
    this.name = null;
    top.isNameNext = false;
    try {
      top.name = JSON.parse(`"${written}"`) as string;
    } catch {
      top.name = written;
    }
  }
}

const isSame = (path: readonly Level[], at: readonly string[]): boolean =>
  path.length === at.length && path.every(({ isList, name }, index) => !isList && name === at[index]);

/** The lists of records of a document that is one object, the longest first; none where it is anything else. */
export async function findLists(file: string, pieceBytes = usualPiece): Promise<FoundList[]> {
  const found: { at: string[]; records: number }[] = [];
  let current: { at: string[]; records: number } | null = null;
  const walk = new Walk({
    open(path, byte) {
      if (byte === openList && current === null && path.length > 0 && path.length <= deepest) {
        if (path.some(({ isList }) => isList)) return;
        current = { at: path.map(({ name }) => name), records: 0 };
      } else if (byte === openObject && current && path.length === current.at.length + 1)
        current.records += 1;
    },
    close(path, byte) {
      if (byte !== closeList || !current || path.length !== current.at.length) return;
      if (current.records > 0 && found.length < mostLists) found.push(current);
      current = null;
    },
  });
  let isOne = true;
  for await (const piece of createReadStream(file, { highWaterMark: pieceBytes })) {
    walk.take(piece as Buffer);
    // Records one after the other, or a bare list, are not a document that holds lists.
    if (walk.values > 1 || !walk.isObject) isOne = false;
    if (!isOne) break;
  }
  return isOne ? found.sort((a, b) => b.records - a.records) : [];
}

/** Writes what one list of a document holds, one value a line. */
export async function writeList(
  file: string,
  at: readonly string[],
  into: string,
  pieceBytes = usualPiece,
): Promise<void> {
  // Where the value that is being written begins in the piece at hand; null: none is.
  let from: number | null = null;
  let inside = false;
  let parts: Buffer[] = [];
  let piece: Buffer = Buffer.alloc(0);
  const end = (to: number): void => {
    if (from === null) return;
    const value = piece.subarray(from, to);
    parts.push(withoutLines(value), newLine);
  };
  const walk = new Walk({
    open(path, byte, where) {
      if (!inside && byte === openList && isSame(path, at)) {
        inside = true;
        from = where + 1;
      }
    },
    between(path, where) {
      if (!inside || path.length !== at.length + 1) return;
      end(where);
      from = where + 1;
    },
    close(path, byte, where) {
      if (!inside || byte !== closeList || path.length !== at.length) return;
      end(where);
      from = null;
      inside = false;
    },
  });
  await pipeline(
    createReadStream(file, { highWaterMark: pieceBytes }),
    async function* (pieces: AsyncIterable<Buffer>) {
      for await (const next of pieces) {
        piece = next;
        if (inside) from = 0;
        walk.take(piece);
        if (inside && from !== null) parts.push(withoutLines(piece.subarray(from)));
        if (parts.length > 0) yield Buffer.concat(parts);
        parts = [];
      }
    },
    createWriteStream(into),
  );
}

const newLine = Buffer.from('\n');

/** Ends of lines are only space between values: in texts they are escaped. */
function withoutLines(value: Buffer): Buffer {
  if (!value.includes(10) && !value.includes(13)) return value;
  const copy = Buffer.from(value);
  for (let at = 0; at < copy.length; at += 1) if (copy[at] === 10 || copy[at] === 13) copy[at] = 32;
  return copy;
}
