import { ProblemError } from '#core/value/problem/problem.ts';

/** What an address speaks of is not on the dashboard. */
export const gone = (what: string): ProblemError =>
  new ProblemError({
    code: 'missing',
    doing: 'opening what is behind',
    why: `${what} is not on this dashboard`,
    mend: 'Close this and choose again.',
  });
