import { once } from 'node:events';
import { createWriteStream } from 'node:fs';
import { z } from 'zod';
import type { Request } from '#core/dataset/schema.ts';
import { ProblemError } from '#core/value/problem/problem.ts';
import type { ConnectionReport, FetchInto, Trial } from '../kind.ts';
import { takeInLines, tryLines } from '../logs/read.ts';

export type IntakeRequest = Extract<Request, { kind: 'intake' }>;

/** Batches as they were received, in order; each is lines of JSON. */
export interface Received {
  batchesAfter(id: string): AsyncIterable<{ readonly id: string; readonly lines: string }>;
  latest(most: number): Promise<string[]>;
}

/** The batch that was taken last. */
const IntakePosition = z.object({ after: z.string().regex(/^\d+$/) });

const json = { kind: 'json' as const };

/** There is nothing to prove of a place that others send to, but whether they have. */
export async function testIntake(received: Received, now: () => Date): Promise<ConnectionReport> {
  const latest = await received.latest(1);
  return {
    facts: [{ name: 'Received', value: latest.length > 0 ? 'something' : 'nothing yet' }],
    warnings: [],
    clockSkewMs: null,
    tookMs: 0,
    at: now().toISOString(),
  };
}

/** The latest records that were received. Throws a {@link ProblemError} while there are none. */
export async function tryIntake(received: Received, request: IntakeRequest, limit = 50): Promise<Trial> {
  const started = performance.now();
  const lines = (await received.latest(50))
    .flatMap((text) => text.split('\n'))
    .filter(Boolean)
    .slice(0, 2000);
  if (lines.length === 0)
    throw new ProblemError({
      code: 'missing',
      doing: 'looking at what was received',
      why: 'nothing has been received yet',
      mend: 'Have something sent, with the key that was shown when the source was added; then try again.',
    });
  const tried = await tryLines({ line: json, columns: request.columns, lines, limit, started });
  return { ...tried, request: { kind: 'intake', columns: tried.columns } };
}

/** Takes in what was received since the last time. */
export const fetchIntake =
  (received: Received): FetchInto =>
  async (writer, { request, fields, position, signal, progress }) => {
    const { columns } = request as IntakeRequest;
    const place = writer.place('lines');
    const out = createWriteStream(place);
    const before = IntakePosition.safeParse(position);
    let last = before.success ? before.data.after : '0';
    try {
      for await (const { id, lines } of received.batchesAfter(last)) {
        signal?.throwIfAborted();
        last = id;
        // The unit separator parts columns when the lines are read; in JSON it can only stand escaped.
        if (!out.write(`${lines.replaceAll('\u001f', ' ')}\n`)) await once(out, 'drain');
      }
    } finally {
      out.end();
      await once(out, 'close');
    }
    const taken = await takeInLines(writer, { place, line: json, columns, fields });
    await progress(taken.records);
    return { ...taken, position: { after: last } };
  };
