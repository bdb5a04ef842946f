import { parse as parseCsv } from 'csv-parse/sync';
import { isSafeNumber, parse as parseLossless } from 'lossless-json';
import { valuesAt } from '#core/dataset/http/json-path.ts';
import { recordValues } from '#core/dataset/http/rows.ts';
import type { AnswerFormat } from '#core/dataset/http/schema.ts';
import { ProblemError } from '#core/value/problem/problem.ts';
import type { Answered } from '../outgoing/client.ts';

/** A number with more digits than a double holds stays text, so that none is lost. */
export const exactNumber = (text: string): unknown =>
  isSafeNumber(text) && (!/e/i.test(text) || Number.isFinite(Number(text))) ? Number(text) : text;

const refused = (doing: string, why: string, mend: string): ProblemError =>
  new ProblemError({ code: 'bad-request', doing, why, mend });

/** A JSON answer may nest so deep. */
export const tooDeep = 200;

/** How deep brackets nest in a JSON text, strings passed over. */
function depthOf(text: string): number {
  let [depth, most, isText] = [0, 0, false];
  for (let at = 0; at < text.length; at += 1) {
    const code = text.charCodeAt(at);
    if (isText) {
      if (code === 92) at += 1;
      else if (code === 34) isText = false;
    } else if (code === 34) isText = true;
    else if (code === 123 || code === 91) {
      depth += 1;
      if (depth > most) most = depth;
    } else if (code === 125 || code === 93) depth -= 1;
  }
  return most;
}

/** Parses JSON with every digit of its numbers. Throws a {@link ProblemError} that says what is wrong with it. */
export function parseJson(text: string, doing: string): unknown {
  if (depthOf(text) > tooDeep)
    throw refused(
      doing,
      `the answer is nested more than ${tooDeep} levels deep`,
      'Ask for a simpler answer.',
    );
  try {
    return parseLossless(text.replace(/^\uFEFF/, ''), undefined, exactNumber);
  } catch (thrown) {
    const message = thrown instanceof Error ? thrown.message : String(thrown);
    const isCut = /end of|unexpected end|got ''/i.test(message);
    throw refused(
      doing,
      isCut
        ? 'the answer is cut off half-way: its JSON does not end'
        : `the answer is not JSON (${message.slice(0, 160)})`,
      isCut
        ? 'Try again; ask for smaller pages if it happens every time.'
        : 'Check the path, or say what format the answer is in.',
    );
  }
}

/** What an answer holds, by its format; `body` is its JSON, where it is that. */
export interface ReadAnswer {
  readonly body: unknown;
  readonly format: Exclude<AnswerFormat, 'auto'>;
}

function formatOf({ header, text }: Answered, format: AnswerFormat): Exclude<AnswerFormat, 'auto'> {
  if (format !== 'auto') return format;
  const type = header('content-type') ?? '';
  if (/ndjson|json-?lines|jsonl/i.test(type)) return 'ndjson';
  if (/json/i.test(type)) return 'json';
  if (/csv/i.test(type)) return 'csv';
  const start = text.trimStart();
  if (!/^[[{"\d-]|^(true|false|null)/.test(start)) return 'csv';
  return /^\{.*\}\s*\n\s*\{/.test(start.slice(0, 100_000)) ? 'ndjson' : 'json';
}

/** What the status of an answer means; nothing where it is a good one. */
export function requireGood({ status, text, header }: Answered, doing: string): void {
  if (status >= 200 && status < 300) return;
  const format = /json|plain|xml/i.test(header('content-type') ?? '')
    ? ` and said: ${text.slice(0, 300).trim()}`
    : '';
  const why = `the service answered ${status}${format}`;
  if (status === 401 || status === 403)
    throw new ProblemError({
      code: 'credential',
      doing,
      why,
      mend: 'Check the credential and what it may read.',
    });
  if (status === 404 || status === 410)
    throw new ProblemError({ code: 'missing', doing, why, mend: 'Check the path.' });
  if (status === 429)
    throw new ProblemError({ code: 'too-much', doing, why, mend: 'Wait, and ask less often.' });
  if (status >= 500)
    throw new ProblemError({
      code: 'unreachable',
      doing,
      why,
      mend: 'Try again later, or tell whoever runs the service.',
    });
  throw refused(doing, why, 'Correct the request.');
}

/** Reads an answer as its format; records of NDJSON and CSV are a list of objects. Throws a {@link ProblemError}. */
export function readAnswer(answer: Answered, said: AnswerFormat, doing: string): ReadAnswer {
  requireGood(answer, doing);
  const { text, header } = answer;
  if (/html/i.test(header('content-type') ?? '') || /^\s*<(!doctype|html)/i.test(text)) {
    const title = /<title[^>]*>([^<]{1,120})/i.exec(text)?.[1]?.trim();
    throw refused(
      doing,
      `the answer is a web page${title ? ` (“${title}”)` : ''}, not records`,
      'Check the address; the service may want a credential, or the path may be of its pages for people.',
    );
  }
  const format = formatOf(answer, said);
  switch (format) {
    case 'json':
      return { format, body: parseJson(text, doing) };
    case 'ndjson':
      return {
        format,
        body: text.split('\n').flatMap((line) => (line.trim() ? [parseJson(line, doing)] : [])),
      };
    case 'csv':
      try {
        return {
          format,
          body: parseCsv(text, {
            bom: true,
            columns: true,
            skip_empty_lines: true,
            relax_column_count: true,
          }),
        };
      } catch (thrown) {
        throw refused(
          doing,
          `the answer is not CSV (${thrown instanceof Error ? thrown.message : thrown})`,
          'Say what format it is in.',
        );
      }
  }
}

/** The records at a JSONPath of an answer. Throws a {@link ProblemError} for a path that cannot be one. */
export function recordsAt(body: unknown, path: string, doing: string): unknown[] {
  try {
    return recordValues(path, body);
  } catch (thrown) {
    throw refused(
      doing,
      `“${path}” is not a JSONPath (${thrown instanceof Error ? thrown.message : thrown})`,
      'Choose where the records are again.',
    );
  }
}

/** Whether the list that a path's records are in is there at all, though it be empty. */
export function hasPlace(body: unknown, path: string): boolean {
  const list = path.replace(/\[\*\]$/, '');
  return list === path || valuesAt(list, body).some(Array.isArray);
}
