import type { Duplex } from 'node:stream';
import type pg from 'pg';
import { ProblemError } from '#core/value/problem/problem.ts';

/** The answer of a pane, a page or a list of values, in bytes as they come over the wire. */
export const mostAnswerBytes = 32_000_000;

export const tooManyBytes = (doing: string, most: number): ProblemError =>
  new ProblemError({
    code: 'too-much',
    doing,
    why: `the answer is larger than ${Math.round(most / 1e6)} MB`,
    mend: 'Ask for fewer records or fields, or shorten long texts in the data set.',
  });

export interface ByteCount {
  /** Bytes since the last time that it was asked. */
  take(): number;
  stop(): void;
}

/**
 * Counts what comes over a connection, and ends the connection when it is more than this many bytes since the last `take`: a
 * value that is larger than memory is never put together. What waits for the answer fails with a {@link ProblemError}.
 */
export function countBytes(client: pg.ClientBase, most: number, doing: string): ByteCount {
  const { stream } = (client as unknown as { connection: { stream: Duplex } }).connection;
  let seen = 0;
  const count = (piece: Buffer): void => {
    seen += piece.length;
    if (seen > most) stream.destroy(tooManyBytes(doing, most));
  };
  stream.on('data', count);
  return {
    take: () => {
      const taken = seen;
      seen = 0;
      return taken;
    },
    stop: () => void stream.off('data', count),
  };
}
