import {
  type Problem,
  type ProblemCode,
  ProblemError,
  stepProblem,
  stepReason,
} from '#core/value/problem/problem.ts';

interface Coded {
  readonly code?: unknown;
  readonly message?: unknown;
  readonly position?: unknown;
  readonly detail?: unknown;
}

const again = 'It is tried again by itself; if it goes on, tell whoever looks after the source.';

/** SQLSTATE (PostgreSQL, appendix A) and Node's network codes, and what each means for a person. */
const meanings: readonly { codes: RegExp; code: ProblemCode; mend: string; why?: string }[] = [
  {
    codes: /^ENOTFOUND$|^EAI_AGAIN$/,
    code: 'unreachable',
    why: 'no such host: the name is not known',
    mend: 'Check the address for a typing error.',
  },
  {
    codes: /^ECONNREFUSED$/,
    code: 'refused',
    why: 'the connection was refused: nothing listens at that address and port',
    mend: 'Check the port, and that the database is running.',
  },
  {
    codes: /^ETIMEDOUT$|^EHOSTUNREACH$|^ENETUNREACH$/,
    code: 'time-out',
    why: 'there was no answer in time',
    mend: 'Check the address, and that a firewall lets this server through.',
  },
  { codes: /^ECONNRESET$|^EPIPE$|^08|^57P0[123]$|^55000$/, code: 'unreachable', mend: again },
  { codes: /^28/, code: 'credential', mend: 'Check the user and the password.' },
  { codes: /^3D000$/, code: 'database', mend: 'Check the name of the database.' },
  {
    codes: /^42P01$|^42703$|^3F000$|^42883$|^42704$/,
    code: 'missing',
    mend: 'Something that was asked for is not there, or has another name now. Look at the data set that asks for it.',
  },
  { codes: /^57014$/, code: 'time-out', mend: 'Choose fewer records, or ask for less in the data set.' },
  {
    codes: /^25006$/,
    code: 'forbidden',
    why: 'the request tried to change records; reading never may',
    mend: 'Use one SELECT that only reads.',
  },
  {
    codes: /^42501$/,
    code: 'forbidden',
    mend: 'Ask whoever looks after the source to let this role read it.',
  },
  {
    codes: /^23/,
    code: 'bad-request',
    mend: 'Nothing was changed. Correct the value, or what refers to the record, and try again.',
  },
  {
    codes: /^40P01$|^40001$|^55P03$/,
    code: 'too-much',
    why: 'somebody else is changing the same records just now',
    mend: 'Nothing was changed. Try again in a moment.',
  },
  { codes: /^53300$|^53/, code: 'too-much', mend: again },
  { codes: /^22|^42/, code: 'bad-request', mend: 'Correct the request or the value that was given.' },
];

/** Any error of the driver as a problem, in the source's own words. */
export function sourceProblem(thrown: unknown, doing: string): ProblemError {
  if (thrown instanceof ProblemError) return thrown;
  const { code, message, detail } = (thrown ?? {}) as Coded;
  const words = typeof message === 'string' ? message : String(thrown);
  const sentence = typeof detail === 'string' ? `${words}: ${detail.replace(/\.$/, '')}` : words;
  const reason = stepReason(sentence);
  if (reason !== null) return stepProblem(reason, doing);
  const named = typeof code === 'string' ? code : '';
  const found = meanings.find(({ codes }) => codes.test(named));
  const problem: Problem = found
    ? { doing, code: found.code, why: found.why ?? sentence, mend: found.mend }
    : unnamed(sentence, doing);
  return new ProblemError(problem, { cause: thrown });
}

function unnamed(message: string, doing: string): Problem {
  if (/timeout|timed out/i.test(message))
    return {
      doing,
      code: 'time-out',
      why: 'there was no answer in time',
      mend: 'Check the address, and that a firewall lets this server through.',
    };
  if (/SSL|TLS|certificate/i.test(message))
    return {
      doing,
      code: 'tls',
      why: message,
      mend: 'Choose another TLS mode, give the certificate of the server’s authority, or mend the server’s certificate.',
    };
  if (/terminated|closed|ended|not queryable/i.test(message))
    return { doing, code: 'unreachable', why: message, mend: again };
  return {
    doing,
    code: 'internal',
    why: message,
    mend: 'Try again; if it goes on, tell whoever looks after the source.',
  };
}
