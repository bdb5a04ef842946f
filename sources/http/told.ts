import { ProblemError } from '#core/value/problem/problem.ts';
import { Unclear } from '../change-each.ts';
import type { Answered } from '../outgoing/client.ts';
import { requireGood } from './answer.ts';

/** What a service answers that took too long over it or broke down: it may have done it or not. */
const unclear = new Set([408, 500, 502, 503, 504]);

/** Throws for a change that a service did not take: an {@link Unclear} where it may have been done. */
export function requireTold(answer: Answered, doing: string): void {
  if (answer.status === 412)
    throw new ProblemError({
      code: 'bad-request',
      doing,
      why: 'somebody changed it meanwhile, so the service did not take it (412)',
      mend: 'Look at the record as it is now, and try it again.',
    });
  try {
    requireGood(answer, doing);
  } catch (thrown) {
    throw unclear.has(answer.status) && thrown instanceof ProblemError ? new Unclear(thrown.problem) : thrown;
  }
}
