import { stringify } from 'lossless-json';
import type { FieldType } from '#core/value/field/types.ts';
import { parseValue } from '#core/value/field/value.ts';
import { ProblemError } from '#core/value/problem/problem.ts';
import { Unclear } from '../change-each.ts';
import type { Answered } from '../outgoing/client.ts';
import { parseJson, requireGood } from './answer.ts';

/* What changes of a service's records have in common. */

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

/** A call that failed before anything was sent was not done; of any other, nobody knows. */
export function whetherSent(thrown: unknown): unknown {
  if (!(thrown instanceof ProblemError)) return thrown;
  const { code } = thrown.problem;
  return code === 'unreachable' || code === 'time-out' ? new Unclear(thrown.problem) : thrown;
}

/** A value in canonical text, as it is where records are shown. */
export function asRead(type: FieldType, text: string | null): string | null {
  if (text === null || (type === 'text' && text === '')) return null;
  const read = parseValue(type, text);
  return read.ok ? read.value : text;
}

/** A value as JSON; a number with every digit. */
export function jsonOf(type: FieldType, text: string | null): string {
  if (text === null) return 'null';
  switch (type) {
    case 'integer':
    case 'decimal':
    case 'float':
      return /^-?\d+(\.\d+)?(e[+-]?\d+)?$/i.test(text)
        ? text.replace(/^(-?)0+(?=\d)/, '$1')
        : JSON.stringify(text);
    case 'boolean':
      return text;
    case 'nested':
      return stringify(parseJson(text, 'writing a value')) ?? 'null';
    default:
      return JSON.stringify(text);
  }
}
