import { type ExpandedCall, expandCall, type InputValues } from '#core/dataset/http/expand.ts';
import { firstPage, type NextPage, nextPage } from '#core/dataset/http/paging.ts';
import { cutOff } from '#core/dataset/http/promises.ts';
import type { Request } from '#core/dataset/schema.ts';
import { ProblemError } from '#core/value/problem/problem.ts';
import type { Answered } from '../outgoing/client.ts';
import { hasPlace, type ReadAnswer, readAnswer, recordsAt } from './answer.ts';
import type { Ask } from './credentials.ts';

export type HttpRequest = Extract<Request, { kind: 'http' }>;

/** Where and how a service is asked. */
export interface Service {
  readonly base: string;
  readonly ask: Ask;
}

export interface Page {
  readonly answer: Answered;
  readonly read: ReadAnswer;
  readonly records: readonly unknown[];
  /** Calls so far. */
  readonly calls: number;
}

/** A service that never ends is left after this many pages. */
const mostPages = 20_000;

function addressOf({ address }: ExpandedCall, parameters: Readonly<Record<string, string>>): string {
  const url = new URL(address);
  for (const [name, value] of Object.entries(parameters)) url.searchParams.set(name, value);
  return url.href;
}

const refused = (doing: string, why: string, mend: string): ProblemError =>
  new ProblemError({ code: 'bad-request', doing, why, mend });

/** The call for what comes next; it stays with the service, whatever the answer says. */
function nextCall(
  base: string,
  call: ExpandedCall,
  next: NextPage,
  doing: string,
): { address: string; body: string | null } {
  if ('parameters' in next) return { address: addressOf(call, next.parameters), body: call.body };
  if ('body' in next) return { address: addressOf(call, {}), body: withMember(call.body, next.body) };
  if (new URL(next.address).origin !== new URL(base).origin)
    throw refused(doing, 'the next page is said to be at another host', 'Choose another way of paging.');
  return { address: next.address, body: call.body };
}

/** A JSON body with one member set, which is made where it is not there. */
function withMember(body: string | null, { at, value }: { at: string; value: string }): string {
  const whole = JSON.parse(body ?? '{}') as Record<string, unknown>;
  const parts = at
    .slice(1)
    .split('/')
    .map((part) => part.replaceAll('~1', '/').replaceAll('~0', '~'));
  let place = whole;
  for (const part of parts.slice(0, -1)) {
    const inner = Object.hasOwn(place, part) ? place[part] : undefined;
    const next = inner !== null && typeof inner === 'object' ? (inner as Record<string, unknown>) : {};
    Object.defineProperty(place, part, { value: next, enumerable: true, configurable: true, writable: true });
    place = next;
  }
  Object.defineProperty(place, parts.at(-1) ?? '', {
    value,
    enumerable: true,
    configurable: true,
    writable: true,
  });
  return JSON.stringify(whole);
}

export interface PagesRequest {
  readonly request: HttpRequest;
  readonly inputs: InputValues;
  readonly doing: string;
  readonly signal?: AbortSignal | undefined;
  readonly mostPages?: number;
}

/** The first page of a request. Throws a {@link ProblemError}. */
export async function onePage(
  { base, ask }: Service,
  query: PagesRequest,
): Promise<Page & { call: ExpandedCall }> {
  const call = expandCall(base, query.request.call, query.inputs);
  const answer = await ask(outgoing(call, addressOf(call, firstPage(query.request.paging)), query));
  const read = readAnswer(answer, query.request.format, query.doing);
  const path = placeOf(read, query.request.records);
  return { call, answer, read, records: recordsAt(read.body, path, query.doing), calls: answer.calls };
}

/** Records of NDJSON and CSV are the answer itself, wherever those of JSON are said to be. */
export const placeOf = ({ format }: ReadAnswer, records: string): string =>
  format === 'json' ? records : '$[*]';

const outgoing = (call: ExpandedCall, address: string, { doing, signal }: PagesRequest) => ({
  address,
  method: call.method,
  headers: {
    accept: 'application/json, application/x-ndjson;q=0.9, text/csv;q=0.8, */*;q=0.1',
    ...(call.body === null ? {} : { 'content-type': 'application/json' }),
    ...call.headers,
  },
  body: call.body,
  // A request of a data set only reads, POST or not.
  isSafe: true,
  doing,
  signal,
});

/**
 * Every page of a request, one after the other. A service that goes round in circles, changes the shape of its answers or
 * never ends is an error that names the page. Throws a {@link ProblemError}.
 */
export async function* allPages(service: Service, query: PagesRequest): AsyncGenerator<Page> {
  const { request, doing } = query;
  const most = query.mostPages ?? mostPages;
  let page: Page & { call: ExpandedCall } = await onePage(service, query);
  const seen = new Set([`${page.answer.address} ${page.call.body ?? ''}`]);
  let fetched = 0;
  let largest = 0;
  let calls = 0;
  for (let number = 0; ; number += 1) {
    calls += page.calls;
    fetched += page.records.length;
    largest = Math.max(largest, page.records.length);
    yield { ...page, calls };
    const settings = {
      address: page.answer.address,
      header: page.answer.header,
      body: page.read.body,
      count: page.records.length,
    };
    const next = nextPage(request.paging, { page: number, fetched, largest }, settings);
    if (next === null) {
      const missing = cutOff(request.paging, { page: number, fetched }, settings);
      if (missing === null) return;
      throw refused(
        doing,
        missing,
        'Choose how the rest is asked for, or only the first page, in the data set.',
      );
    }
    const pageWords = `page ${number + 2}`;
    const { address, body } = nextCall(service.base, page.call, next, doing);
    if (seen.has(`${address} ${body ?? ''}`))
      throw refused(
        doing,
        `its paging goes round in circles: ${pageWords} is one that was fetched before`,
        'Choose another way of paging.',
      );
    seen.add(`${address} ${body ?? ''}`);
    if (number + 1 >= most)
      throw new ProblemError({
        code: 'too-much',
        doing,
        why: `it has not ended after ${most} pages`,
        mend: 'Ask for larger pages or for fewer records, or correct the way of paging.',
      });
    const at = `${doing}, ${pageWords}`;
    const answer = await service.ask(outgoing({ ...page.call, body }, address, { ...query, doing: at }));
    const read = readAnswer(answer, request.format, at);
    const path = placeOf(read, request.records);
    if (read.format !== page.read.format || !hasPlace(read.body, path))
      throw refused(
        at,
        `the answer has another shape than the first: there is nothing at ${path}`,
        'Ask the service’s owner, or choose where the records are again.',
      );
    if (answer.text === page.answer.text && page.records.length > 0)
      throw refused(
        at,
        'its paging goes round in circles: the answer is the same as the one before',
        'Choose another way of paging.',
      );
    page = { call: page.call, answer, read, records: recordsAt(read.body, path, at), calls: answer.calls };
  }
}
