import { Transform } from 'node:stream';

/** Passes on all that is written in one turn of the event loop as one piece: a page is rendered in hundreds of small ones. */
export function gatherWrites(): Transform {
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
