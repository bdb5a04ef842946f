import { parseTemplate } from 'url-template';
import { ProblemError } from '#core/value/problem/problem.ts';
import type { HttpCall } from './schema.ts';

/** The values of inputs, by name: canonical texts, null where unset. */
export type InputValues = Readonly<Record<string, { type: string; value: string | null }>>;

/** A call with its inputs filled in. */
export interface ExpandedCall {
  readonly method: HttpCall['method'];
  readonly address: string;
  readonly headers: Readonly<Record<string, string>>;
  readonly body: string | null;
}

const expression = /\{([+#./;?&]?)([^{}]+)\}/g;

/** The names in an RFC 6570 template, in order. */
function namesIn(template: string): string[] {
  return [...template.matchAll(expression)].flatMap(([, , list = '']) =>
    list.split(',').map((name) => name.replace(/[*]$|:\d+$/g, '').trim()),
  );
}

const placeholder = /^\{([A-Za-z_][A-Za-z0-9_]*)\}$/;

function parsedBody(body: string | undefined): unknown {
  if (body === undefined || body.trim() === '') return undefined;
  try {
    return JSON.parse(body);
  } catch {
    return undefined;
  }
}

function namesInBody(value: unknown): string[] {
  if (typeof value === 'string') return placeholder.exec(value)?.slice(1, 2) ?? [];
  if (Array.isArray(value)) return value.flatMap(namesInBody);
  return value !== null && typeof value === 'object' ? Object.values(value).flatMap(namesInBody) : [];
}

/** Every input of a call, found where it is used, each once in order of first use. */
export function callInputs({ path, query, headers, body }: HttpCall): string[] {
  const names = [
    ...namesIn(path),
    ...[...query, ...headers].flatMap(({ value }) => namesIn(value)),
    ...namesInBody(parsedBody(body)),
  ];
  return [...new Set(names)].filter((name) => /^[A-Za-z_][A-Za-z0-9_]*$/.test(name));
}

/** What is wrong with a call, or null. */
export function callProblem({ path, body, query, headers }: HttpCall): string | null {
  if (/^[a-z][a-z0-9+.-]*:/i.test(path) || path.startsWith('//'))
    return 'the path is after the source’s own address, not an address of its own';
  if (body !== undefined && body.trim() !== '' && parsedBody(body) === undefined)
    return 'the body is not JSON';
  for (const text of [path, ...[...query, ...headers].map(({ value }) => value)])
    if ((text.replace(expression, '').match(/[{}]/g) ?? []).length > 0)
      return `“${text.slice(0, 60)}” has a brace that is not closed`;
  if (headers.some(({ name, value }) => !/^[!#$%&'*+.^_`|~0-9A-Za-z-]+$/.test(name) || /[\r\n]/.test(value)))
    return 'a header’s name or value holds characters that it may not';
  return null;
}

function filled(value: unknown, inputs: InputValues): unknown {
  if (typeof value === 'string') {
    const [, name] = placeholder.exec(value) ?? [];
    if (name === undefined) return value;
    const input = inputs[name];
    if (input?.value == null) return undefined;
    if (input.type === 'boolean') return input.value === 'true';
    const asNumber = Number(input.value);
    // A number that a double cannot hold goes as text rather than as another number.
    return (input.type === 'integer' || input.type === 'decimal') && String(asNumber) === input.value
      ? asNumber
      : input.value;
  }
  if (Array.isArray(value))
    return value.map((each) => filled(each, inputs)).filter((each) => each !== undefined);
  if (value === null || typeof value !== 'object') return value;
  return Object.fromEntries(
    Object.entries(value)
      .map(([key, each]) => [key, filled(each, inputs)])
      .filter(([, each]) => each !== undefined),
  );
}

const badValue = (why: string): ProblemError =>
  new ProblemError({
    code: 'bad-request',
    doing: 'filling in the request',
    why,
    mend: 'Give another value, or correct the request.',
  });

/** Joins a base address and what comes after it; a path never leads above the base. Throws a {@link ProblemError}. */
export function joinAddress(base: string, path: string): URL {
  const root = new URL(base.endsWith('/') ? base : `${base}/`);
  const address = new URL(path.replace(/^\/+/, ''), root);
  if (address.origin !== root.origin || !`${address.pathname}/`.startsWith(root.pathname))
    throw badValue('the path leads out of the source’s address');
  return address;
}

/** `.` and `..`, also percent-encoded, as addresses have them (WHATWG URL, section 4.3). */
const dots = /^(\.|%2e){1,2}$/i;

/**
 * A path with its inputs filled in. A value is one segment, encoded: it can neither begin another nor lead up or away, so that
 * what is asked is always what the template names. Throws a {@link ProblemError}.
 */
function expandPath(template: string, values: Readonly<Record<string, string>>): string {
  // Reserved and fragment expansion would let a value bring slashes, dots and question marks of its own.
  const plain = template.replace(/\{[+#]/g, '{');
  const [written = ''] = plain.split(/[?#]/, 1);
  const filled = parseTemplate(plain).expand(values);
  const [path = ''] = filled.split(/[?#]/, 1);
  const literal = written.split('/').filter((part) => dots.test(part)).length;
  if (path.split('/').filter((part) => dots.test(part)).length > literal)
    throw badValue('a value of the path is only dots, which would lead to another place of the service');
  return filled;
}

/** A header's value (RFC 9110, section 5.5): no line ends, no other control characters. Throws a {@link ProblemError}. */
function headerValue(name: string, value: string): string {
  // biome-ignore lint/suspicious/noControlCharactersInRegex: they are what must not be there
  if (/[\u0000-\u0008\u000a-\u001f\u007f]/.test(value))
    throw badValue(`the value of the header ${name} holds a line end or another control character`);
  return value;
}

/** The call to make for some values: query entries, headers and members of the body without their values are left out. Throws a {@link ProblemError}. */
export function expandCall(base: string, call: HttpCall, inputs: InputValues): ExpandedCall {
  const values = Object.fromEntries(
    Object.entries(inputs).flatMap(([name, { value }]) => (value === null ? [] : [[name, value]])),
  );
  const isComplete = (template: string): boolean =>
    namesIn(template).every((name) => values[name] !== undefined);
  const expand = (template: string): string => parseTemplate(template).expand(values);
  const address = joinAddress(base, expandPath(call.path, values));
  for (const { name, value } of call.query)
    if (isComplete(value))
      // A template expands to what stands in an address; in the query it is encoded once, not twice.
      address.searchParams.append(name, decodeURIComponent(expand(value)));
  const headers = Object.fromEntries(
    call.headers.flatMap(({ name, value }) =>
      isComplete(value) ? [[name.toLowerCase(), headerValue(name, decodeURIComponent(expand(value)))]] : [],
    ),
  );
  const body = filled(parsedBody(call.body), inputs);
  return {
    method: call.method,
    address: address.href,
    headers,
    body: body === undefined ? null : JSON.stringify(body),
  };
}
