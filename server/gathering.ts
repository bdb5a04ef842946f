import { Transform } from 'node:stream';

/** Passes on what is written, all that was written in one turn as one piece: a page comes in hundreds of small ones. */
export function gathering(): Transform {
  let pieces: Buffer[] = [];
  const all = (): Buffer => {
    const [only] = pieces;
    const piece = pieces.length === 1 && only ? only : Buffer.concat(pieces);
    pieces = [];
    return piece;
  };
  const stream = new Transform({
    transform(piece: Buffer, _, done) {
      if (pieces.length === 0) setImmediate(() => pieces.length > 0 && stream.push(all()));
      pieces.push(piece);
      done();
    },
    flush: (done) => done(null, pieces.length > 0 ? all() : undefined),
  });
  return stream;
}
