import { createHash } from 'node:crypto';
import type { Cell } from '#core/value/field/value.ts';
import { ProblemError } from '#core/value/problem/problem.ts';
import { sharing } from '#engine/postgres/share.ts';

/*
 * A version of kept records never changes, and neither does what was fetched at one moment. So an answer over them is worked
 * out once and given to everybody who asks the same, until it has to make room.
 */

export type Records = readonly (readonly Cell[])[];

/** Bytes, about, of all answers that are held, and of one that is worth holding. */
const capacity = 64_000_000;
const largestAnswer = 4_000_000;

/** The answers in the order of their latest use, the longest ago first. */
const held = new Map<string, { readonly records: Records; readonly bytes: number }>();
let heldBytes = 0;
let engineRuns = 0;

const share = sharing<Records>();

/** About how many bytes records take in memory. */
function bytesOf(records: Records): number {
  let bytes = 0;
  for (const record of records)
    for (const cell of record) bytes += typeof cell === 'string' ? 24 + 2 * cell.length : 12;
  return bytes;
}

/** Nobody who is given them can change them for the others. */
const frozen = (records: Records): Records => Object.freeze(records.map((record) => Object.freeze(record)));

function hold(key: string, records: Records): void {
  const bytes = bytesOf(records);
  if (bytes > largestAnswer) return;
  held.set(key, { records, bytes });
  heldBytes += bytes;
  for (const [oldest, answer] of held) {
    if (heldBytes <= capacity) break;
    held.delete(oldest);
    heldBytes -= answer.bytes;
  }
}

/**
 * The answer to a question, which has to name the very versions that it is asked of. Those who ask at once share one run; one
 * who leaves takes nothing from the others. What fails is not held.
 */
export async function answerOnce(
  question: unknown,
  { doing, signal }: { readonly doing: string; readonly signal?: AbortSignal | undefined },
  run: (signal: AbortSignal) => Promise<Records>,
): Promise<Records> {
  const key = createHash('sha256').update(JSON.stringify(question)).digest('base64');
  const known = held.get(key);
  if (known) {
    held.delete(key);
    held.set(key, known);
    return known.records;
  }
  try {
    return await share(key, signal, async (until) => {
      engineRuns += 1;
      const records = frozen(await run(until));
      hold(key, records);
      return records;
    });
  } catch (thrown) {
    // Each is told of what they were doing themselves.
    throw thrown instanceof ProblemError ? new ProblemError({ ...thrown.problem, doing }) : thrown;
  }
}

/** What is held in this process, and how often an engine had to work since it began. */
export const answerCounts = (): { held: number; bytes: number; engineRuns: number } => ({
  held: held.size,
  bytes: heldBytes,
  engineRuns,
});

export function forgetAnswers(): void {
  held.clear();
  heldBytes = 0;
}
