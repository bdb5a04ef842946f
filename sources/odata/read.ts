import type { Filter } from '#core/ask/condition/resolve.ts';
import { memberTexts } from '#core/dataset/http/members.ts';
import type { Field } from '#core/value/field/field.ts';
import { ProblemError } from '#core/value/problem/problem.ts';
import { parseJson, requireGood } from '../http/answer.ts';
import type { Ask } from '../http/credentials.ts';
import { allowanceFacts, openTravelWarnings } from '../http/prove.ts';
import { skewOf } from '../http/skew.ts';
import type { Trial } from '../kind.ts';
import {
  type ConnectionReport,
  type CountRequest,
  type FetchInto,
  sinceTest,
  TooManyRecords,
} from '../kind.ts';
import type { Answered } from '../outgoing/client.ts';
import { typedSample } from '../typed-sample.ts';
import {
  asFolder,
  canSayAll,
  countAddress,
  pointersOf,
  type SetQuery,
  type SetRequest,
  setAddress,
} from './address.ts';
import type { ODataConnection } from './connection.ts';
import { readMetadata } from './metadata.ts';

/** A service and how it is asked. */
export interface Service {
  readonly base: string;
  readonly ask: Ask;
}

/** Decimals and 64-bit integers come as texts, with every digit (OData JSON Format 4.01, section 4.1). */
export const accept = 'application/json;odata.metadata=minimal;IEEE754Compatible=true';
const mostPages = 100_000;

const under = (base: string, path: string): string => new URL(path, asFolder(base)).href;

async function metadata({ base, ask }: Service, doing: string): Promise<{ xml: string; answer: Answered }> {
  const answer = await ask({
    address: under(base, '$metadata'),
    doing,
    headers: { accept: 'application/xml' },
  });
  requireGood(answer, doing);
  return { xml: answer.text, answer };
}

/** What the service's metadata says there is. Throws a {@link ProblemError}. */
export async function discoverOData(service: Service) {
  const doing = 'reading the service’s metadata';
  return readMetadata((await metadata(service, doing)).xml, doing);
}

/** Reads the metadata with the credential. Throws a {@link ProblemError} in plain words. */
export async function testOData(
  { base, auth, allowance }: ODataConnection,
  ask: Ask,
  now: () => Date,
): Promise<ConnectionReport> {
  const started = performance.now();
  const doing = `reading the metadata of ${new URL(base).host}`;
  const { xml, answer } = await metadata({ base, ask }, doing);
  const tables = readMetadata(xml, doing);
  return {
    facts: [
      { name: 'Protocol', value: `OData ${answer.header('odata-version') ?? 'of an unsaid version'}` },
      { name: 'Entity sets', value: String(tables.length) },
      { name: 'Credential', value: auth.kind === 'none' ? 'none is sent' : 'taken' },
      ...allowanceFacts(allowance),
    ],
    warnings: openTravelWarnings(base, auth),
    clockSkewMs: skewOf(answer.header('date'), now()),
    tookMs: Math.round(performance.now() - started),
    at: now().toISOString(),
  };
}

interface SetPage {
  readonly records: readonly unknown[];
  readonly count: string | null;
  readonly calls: number;
}

async function* pages(
  { base, ask }: Service,
  request: SetRequest,
  query: SetQuery,
  { doing, signal }: { doing: string; signal?: AbortSignal | undefined },
): AsyncGenerator<SetPage> {
  let address: string | null = setAddress(base, request, query);
  const seen = new Set<string>();
  for (let number = 1; address !== null; number += 1) {
    const at = number === 1 ? doing : `${doing}, page ${number}`;
    if (seen.has(address) || number > mostPages) throw wrong(at, 'its paging goes round in circles');
    seen.add(address);
    const answer: Answered = await ask({
      address,
      doing: at,
      signal,
      headers: { accept, 'odata-maxversion': '4.01', prefer: 'odata.maxpagesize=1000' },
    });
    requireGood(answer, at);
    const body = parseJson(answer.text, at) as Record<string, unknown> | null;
    const records = body?.value;
    if (!Array.isArray(records)) throw wrong(at, 'the answer holds no list of records under “value”');
    const count = body?.['@odata.count'] ?? body?.['@count'];
    yield { records, count: count === undefined ? null : String(count), calls: answer.calls };
    const next: unknown = body?.['@odata.nextLink'] ?? body?.['@nextLink'];
    address = typeof next === 'string' ? new URL(next, answer.address).href : null;
    if (address !== null && new URL(address).origin !== new URL(base).origin)
      throw wrong(at, 'the next page is said to be at another host');
  }
}

const wrong = (doing: string, why: string): ProblemError =>
  new ProblemError({ code: 'bad-request', doing, why, mend: 'Tell whoever runs the service.' });

/** The first records of a set, typed as the metadata says. Throws a {@link ProblemError}. */
export async function tryOData(
  service: Service,
  request: SetRequest,
  fields: readonly Field[],
  { signal, limit = 50 }: { signal?: AbortSignal | undefined; limit?: number },
): Promise<Trial> {
  const started = performance.now();
  const names = fields.map(({ name }) => name);
  const pointers = pointersOf(request, names);
  const records: unknown[] = [];
  for await (const page of pages(
    service,
    request,
    { fields: names, top: limit + 1 },
    { doing: `trying ${request.table}`, signal },
  )) {
    records.push(...page.records);
    if (records.length > limit) break;
  }
  const looked = await typedSample(
    names,
    (writer) => writer.add(records.slice(0, limit).map((record) => memberTexts(record, pointers))),
    limit,
    fields,
  );
  return {
    request,
    fields,
    records: looked.records,
    took: performance.now() - started,
    more: records.length > limit,
  };
}

/** How many records pass a filter, as exact text, without fetching any; null where the service cannot be told all of it. */
export async function countOData(
  { base, ask }: Service,
  request: SetRequest,
  { where, doing, signal }: CountRequest,
): Promise<string | null> {
  if (!canSayAll(where, request)) return null;
  const address = countAddress(base, request, where);
  const answer = await ask({ address, doing, signal, headers: { accept: 'text/plain' } });
  requireGood(answer, doing);
  // Some begin it with a byte order mark.
  const count = answer.text.replace(/^\uFEFF/, '').trim();
  if (!/^\d+$/.test(count)) throw wrong(doing, `“${count.slice(0, 40)}” is no count`);
  return count;
}

/** Fetches every record that a filter lets through, only the fields wanted. */
export const fetchOData =
  (service: Service): FetchInto =>
  async (writer, { request, fields, since, where, doing, signal, most, progress }) => {
    const query = request as SetRequest;
    const names = fields.map(({ name }) => name);
    const pointers = pointersOf(query, names);
    const filters: Filter[] = [
      ...(where ? [where] : []),
      ...(since ? [{ field: since.field, test: sinceTest(since) }] : []),
    ];
    let [records, calls] = [0, 0];
    const asking: SetQuery = {
      fields: names,
      filter: { all: filters },
      // How many there are comes with the first page, so that too many are refused at once.
      ...(most === undefined ? {} : { top: most + 1, count: true }),
    };
    for await (const page of pages(service, query, asking, { doing, signal })) {
      calls += page.calls;
      records += page.records.length;
      if (most !== undefined && (records > most || Number(page.count ?? 0) > most))
        throw new TooManyRecords(doing, most);
      await writer.add(page.records.map((record) => memberTexts(record, pointers)));
      await progress(page.records.length);
    }
    return { records, calls };
  };
