/**
 * What went wrong, in the four parts a person needs: what was being done, to what, why (in the source's own words)
 * and what to do about it. Plain data, so that it crosses from the server to a pane unchanged.
 */
export interface Problem {
  /** What was being done, as a gerund phrase: "reading sailings". */
  readonly doing: string;
  /** Why it failed, as the source or the check said it. */
  readonly why: string;
  /** What a person can do now. */
  readonly mend: string;
  /** A short stable word for programs and tests. */
  readonly code: ProblemCode;
}

export type ProblemCode =
  | 'unreachable'
  | 'refused'
  | 'credential'
  | 'database'
  | 'tls'
  | 'time-out'
  | 'missing'
  | 'forbidden'
  | 'bad-request'
  | 'too-much'
  | 'stopped'
  | 'internal';

/** Carries a {@link Problem} up to where a pane or page shows it. */
export class ProblemError extends Error {
  readonly problem: Problem;
  constructor(problem: Problem, options?: ErrorOptions) {
    super(`${problem.doing}: ${problem.why}`, options);
    this.name = 'ProblemError';
    this.problem = problem;
  }
}

/** The problem inside any thrown value; what was not foreseen becomes an `internal` one without its stack. */
export function problemOf(thrown: unknown, doing: string): Problem {
  if (thrown instanceof ProblemError) return thrown.problem;
  return {
    doing,
    why: thrown instanceof Error ? thrown.message : String(thrown),
    mend: 'Try again; if it goes on, tell whoever runs this installation.',
    code: 'internal',
  };
}

/** Nobody waits for what was asked any more, so it was stopped. */
export const stoppedProblem = (doing: string): ProblemError =>
  new ProblemError({
    code: 'stopped',
    doing,
    why: 'it was stopped, since nobody waits for it any more',
    mend: 'Ask again.',
  });

/** What a step writes before its reason, in the text of an error that it raises where the records are. */
export const stepStopped = 'stopped: ';

/** The reason that a step gave, out of what a database said; null where it said something else. */
export function stepReason(said: string): string | null {
  const at = said.indexOf(stepStopped);
  if (at < 0) return null;
  const reason = said.slice(at + stepStopped.length).trim();
  // PostgreSQL quotes the text that it could not read.
  return reason.endsWith('"') ? reason.slice(0, -1) : reason;
}

/** A step that refuses what it was given says so in its own words. */
export const stepProblem = (why: string, doing: string): ProblemError =>
  new ProblemError({
    code: 'bad-request',
    doing,
    why,
    mend: 'Look at the step on the page of the data set: mend the records before it, or choose otherwise.',
  });
