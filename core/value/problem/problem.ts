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
  /** The field that holds values which are not of its type, where that is why. */
  readonly misfit?: string;
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

/**
 * The problem inside any thrown value; what was not foreseen becomes an `internal` one without its stack. What sources say is
 * foreseen, so a connection that was lost here is the one to our own database.
 */
export function problemOf(thrown: unknown, doing: string): Problem {
  if (thrown instanceof ProblemError) return thrown.problem;
  const { text } = saidBy(thrown);
  const own = ownDatabaseProblem(thrown, doing);
  if (own) return own;
  const full = diskProblem(thrown, doing);
  if (full) return full.problem;
  return {
    doing,
    why: text,
    mend: 'Try again; if it goes on, tell whoever runs this installation.',
    code: 'internal',
  };
}

/** What a database said is the cause of a failed query; the query itself tells a person nothing. */
function saidBy(thrown: unknown): { readonly text: string; readonly code: string } {
  const cause = thrown instanceof Error && thrown.cause instanceof Error ? thrown.cause : thrown;
  return {
    text: cause instanceof Error ? cause.message : String(cause),
    code: cause instanceof Error && 'code' in cause ? String(cause.code) : '',
  };
}

/** What is the matter with our own database, where that is away or full; null where something else went wrong. */
export function ownDatabaseProblem(thrown: unknown, doing: string): Problem | null {
  if (thrown instanceof ProblemError) return null;
  const { text, code } = saidBy(thrown);
  if (code === fullCode)
    return {
      doing,
      why: 'the disk of Slate Glass’s own database is full',
      mend: 'Nothing was saved, and nothing that was is lost. Tell whoever runs this installation.',
      code: 'too-much',
    };
  return lostCodes.has(code) || lostText.test(text)
    ? {
        doing,
        why: 'Slate Glass cannot reach its own database just now',
        mend: 'Nothing was lost. Try again in a moment; if it goes on, tell whoever runs this installation.',
        code: 'unreachable',
      }
    : null;
}

/** PostgreSQL has no room to write (appendix A). */
const fullCode = '53100';
/** A server that cannot be reached (POSIX), ends, crashed or starts (PostgreSQL, appendix A). */
const lostCodes = new Set(['ECONNREFUSED', 'ECONNRESET', 'EPIPE', '57P01', '57P02', '57P03', '08006']);
/** What the client says of a connection that ended under it. */
const lostText = /^(Connection terminated|Client has encountered a connection error)/;

/** Of a full disk, a spent quota and a limit on files (POSIX), as codes and as text. */
const noRoom = /\b(ENOSPC|EDQUOT|EFBIG)\b|No space left on device|Disk quota exceeded|File too large/;

/** What was thrown since nothing more could be written where kept records are cached; null when it was something else. */
export function diskProblem(thrown: unknown, doing: string): ProblemError | null {
  const { code, message } = (thrown ?? {}) as { code?: unknown; message?: unknown };
  if (!noRoom.test(`${code} ${message}`)) return null;
  return new ProblemError(
    {
      doing,
      why: 'the disk of the segment cache is full',
      mend: 'Make room on the disk of SLATE_CACHE; the records themselves are safe in the database.',
      code: 'too-much',
    },
    { cause: thrown },
  );
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
export function stepReason(message: string): string | null {
  const at = message.indexOf(stepStopped);
  if (at < 0) return null;
  const reason = message.slice(at + stepStopped.length).trim();
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
