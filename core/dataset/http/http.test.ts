import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { findCandidates } from './candidates.ts';
import { callInputs, callProblem, expandCall, joinAddress } from './expand.ts';
import { linkOf, retryAfterSeconds, toldLimits } from './limits.ts';
import { findMembers, memberText, memberTexts } from './members.ts';
import { readOpenApi } from './openapi.ts';
import { nextPage, recognisePaging } from './paging.ts';
import { cutOff } from './promises.ts';
import { type HttpCall, plainCall } from './schema.ts';

const base = 'https://tides.example/v2';
const now = new Date('2026-11-23T12:00:00Z');
const search: HttpCall = {
  method: 'POST',
  path: 'stations/{station}/find',
  query: [
    { name: 'hours', value: '{hours}' },
    { name: 'per_page', value: '100' },
  ],
  headers: [{ name: 'X-Tide-Area', value: '{area}' }],
  body: '{"where": {"kind": "{kind}", "least": "{least}"}, "text": "kind {kind} { id }"}',
};
const value = (type: string, text: string | null) => ({ type, value: text });

describe('a call', () => {
  test('has its inputs found wherever they are used, each once', () => {
    expect(callInputs(search)).toEqual(['station', 'hours', 'area', 'kind', 'least']);
  });
  test('is filled with values that are encoded once, and leaves out what is unset', () => {
    const call = expandCall(base, search, {
      station: value('text', 'ST/01 é'),
      hours: value('integer', null),
      area: value('text', null),
      kind: value('text', 'a "quote"'),
      least: value('decimal', '1.5'),
    });
    expect(call.address).toBe('https://tides.example/v2/stations/ST%2F01%20%C3%A9/find?per_page=100');
    expect(call.headers).toEqual({});
    expect(JSON.parse(call.body ?? '')).toEqual({
      where: { kind: 'a "quote"', least: 1.5 },
      text: 'kind {kind} { id }',
    });
  });
  test('sends a number that a double cannot hold as text, with every digit', () => {
    const call = expandCall(
      base,
      { ...plainCall(''), method: 'POST', body: '{"n": "{n}"}' },
      {
        n: value('integer', '9007199254740993'),
      },
    );
    expect(call.body).toBe('{"n":"9007199254740993"}');
  });
  test.each([
    ['https://elsewhere.example/x', 'an address of its own'],
    ['//elsewhere.example/x', 'an address of its own'],
    ['stations/{open', 'a brace that is not closed'],
  ])('to %s is refused', (path, why) => {
    expect(callProblem(plainCall(path))).toContain(why);
  });
  test('cannot put a line of its own into the headers', () => {
    expect(callProblem({ ...plainCall(''), headers: [{ name: 'X', value: 'a\r\nHost: b' }] })).toContain(
      'characters',
    );
  });
  test('never leaves the host and the path of its source, whatever its values are', () => {
    fc.assert(
      fc.property(fc.string({ unit: 'binary', maxLength: 40 }), (text) => {
        const call = expandCall(
          base,
          { ...plainCall('at/{x}'), query: [{ name: 'q', value: '{x}' }] },
          {
            x: value('text', text),
          },
        );
        const url = new URL(call.address);
        expect(url.origin).toBe('https://tides.example');
        expect(url.pathname.startsWith('/v2/')).toBe(true);
      }),
      { numRuns: 500 },
    );
    expect(() => joinAddress(base, '../../admin')).toThrow('leads out');
    expect(() => joinAddress(base, '../v22/x')).toThrow('leads out');
  });
  test.each(['{x}', '{+x}', '{/x}', '{#x}', 'a/{x}/b', '{x}{x}', '{;x}', 'a{?x}', '.{x}', '{x}.'])(
    'asks under the path %s and nowhere else',
    (template) => {
      const hostile = fc.oneof(
        fc.string({ unit: 'binary', maxLength: 12 }),
        fc
          .array(fc.constantFrom('.', '..', '/', '\\', '%2e', '%2F', '?', '#', '@', '//', ';', 'a', '\t'), {
            maxLength: 6,
          })
          .map((parts) => parts.join('')),
      );
      fc.assert(
        fc.property(hostile, (text) => {
          let call: ReturnType<typeof expandCall>;
          try {
            call = expandCall(base, plainCall(`stations/${template}`), { x: value('text', text) });
          } catch (thrown) {
            expect(String(thrown)).toContain('only dots');
            return;
          }
          const { pathname, origin } = new URL(call.address);
          expect(origin).toBe('https://tides.example');
          expect(pathname).toMatch(/^\/v2\/stations\//);
          // As many segments as the template has, whatever the value.
          const most = template === '{/x}' ? 5 : 3 + template.split('/').length;
          expect(pathname.split('/').length).toBeLessThanOrEqual(most);
        }),
        { numRuns: 400 },
      );
    },
  );
  test('puts no line end into a header', () => {
    const call = { ...plainCall(''), headers: [{ name: 'X-Area', value: '{area}' }] };
    expect(() => expandCall(base, call, { area: value('text', 'a\r\nHost: b') })).toThrow('line end');
    expect(() => expandCall(base, call, { area: value('text', 'a\u0000b') })).toThrow('control character');
    expect(expandCall(base, call, { area: value('text', 'Skerry ✓') }).headers).toEqual({
      'x-area': 'Skerry ✓',
    });
  });
});

describe('an answer', () => {
  const answer = {
    meta: { page: 1, per_page: 2, total: 9 },
    data: {
      items: [
        { id: 1, readings: [{ kind: 'a' }, { kind: 'b' }] },
        { id: 2, readings: [] },
      ],
    },
    tags: ['x', 'y'],
  };
  test('offers the places where records may be, with their counts, outer lists first', () => {
    expect(findCandidates(answer)).toEqual([
      { path: '$.data.items[*]', count: 2, members: ['id', 'readings'] },
      { path: '$.data.items[*].readings[*]', count: 2, members: ['kind'] },
      { path: '$', count: 1, members: ['meta', 'data', 'tags'] },
    ]);
    expect(findCandidates([{ a: 1 }])[0]?.path).toBe('$[*]');
    expect(findCandidates(7)).toEqual([]);
    expect(findCandidates({ 'odd name': [{ a: 1 }] })[0]?.path).toBe('$["odd name"][*]');
  });
  test('are under their identifiers, too, where those are alike', () => {
    const gate = { code: 'NRK-1', terminal: 'Norrick', open: true };
    const gates = { one: gate, two: { ...gate, open: false }, three: { ...gate, note: 'slow' } };
    expect(findCandidates({ meta: { page: 1 }, gates })[0]).toEqual({
      path: '$.gates.*',
      count: 3,
      members: ['code', 'terminal', 'open', 'note'],
    });
    // Parts of one record are not records.
    const order = { buyer: { name: 'Isla' }, place: { quay: 'N-4' }, price: { amount: 3, sign: '£' } };
    expect(findCandidates({ order }).map(({ path }) => path)).toEqual(['$']);
  });
  test('has members of objects as columns, lists as JSON, and no two columns of one name', () => {
    const records = [
      { id: 1, station: { name: 'Holm', id: 'x' }, station_name: 'clash', readings: [1, 2], 'a/b': null },
      { id: 2, station: null, late: true },
    ];
    const members = findMembers(records);
    expect(members).toEqual([
      { column: '/id', name: 'id' },
      { column: '/station/name', name: 'station_name' },
      { column: '/station/id', name: 'station_id' },
      { column: '/station_name', name: 'station_name_2' },
      { column: '/readings', name: 'readings' },
      { column: '/a~1b', name: 'a/b' },
      { column: '/late', name: 'late' },
    ]);
    expect(
      memberTexts(
        records[0],
        members.map(({ column }) => column),
      ),
    ).toEqual(['1', 'Holm', 'x', 'clash', '[1,2]', null, null]);
    expect(memberText({ a: 1 }, '/a/b/c')).toBeNull();
    expect(memberText({}, '/constructor/name')).toBeNull();
  });
  const paged = (body: unknown, count = 2, link: string | null = null) => ({
    address: `${base}/x?limit=2`,
    header: (name: string) => (name === 'link' ? link : null),
    body,
    count,
  });
  test.each([
    ['a Link header', paged([], 2, '<https://tides.example/v2/x?page=2>; rel="next"'), { kind: 'link' }],
    ['a next address', paged({ next: '/v2/x?c=2', items: [] }), { kind: 'next', at: '$["next"]' }],
    [
      'a cursor',
      paged({ page_info: { next_cursor: 'abc' } }),
      { kind: 'cursor', at: '$["page_info"]["next_cursor"]', parameter: 'cursor' },
    ],
    [
      'numbered pages',
      paged(answer),
      { kind: 'page', parameter: 'page', from: 1, size: { parameter: 'per_page', count: 2 } },
    ],
    [
      'an offset',
      paged({ offset: 0, limit: 2, total: 5 }),
      { kind: 'offset', parameter: 'offset', size: { parameter: 'limit', count: 2 } },
    ],
    ['nothing of the kind', paged({ items: [{}] }), { kind: 'none' }],
  ])('with %s is recognised', (_, promise, paging) => {
    expect(recognisePaging(plainCall('x'), promise)).toEqual(paging);
  });
  test('that is the last page ends the paging', () => {
    const state = { page: 1, fetched: 5, largest: 3 };
    expect(
      nextPage(
        { kind: 'page', parameter: 'page', from: 1, size: { parameter: 'n', count: 3 } },
        state,
        paged({}),
      ),
    ).toBeNull();
    expect(
      nextPage({ kind: 'cursor', at: '$.next', parameter: 'c' }, state, paged({ next: null })),
    ).toBeNull();
    expect(
      nextPage({ kind: 'offset', parameter: 'o', size: { parameter: 'n', count: 2 } }, state, paged({})),
    ).toEqual({ parameters: { o: '5', n: '2' } });
    expect(nextPage({ kind: 'link' }, state, paged({}))).toBeNull();
  });
});

describe('limits that a service tells', () => {
  const read = (headers: Record<string, string>) => toldLimits((name) => headers[name] ?? null, now);
  test('are read from the header of any age', () => {
    expect(read({ ratelimit: '"day";r=50;t=30' })).toEqual({ left: 50, waitSeconds: null });
    expect(read({ 'x-ratelimit-remaining': '0', 'x-ratelimit-reset': '60' })).toEqual({
      left: 0,
      waitSeconds: 60,
    });
    expect(
      read({ 'ratelimit-remaining': '0', 'ratelimit-reset': String(now.getTime() / 1000 + 90) }),
    ).toEqual({ left: 0, waitSeconds: 90 });
    expect(read({ 'x-ratelimit-remaining': 'many' })).toEqual({ left: null, waitSeconds: null });
  });
  test('say when to come back in seconds or as a date', () => {
    expect(retryAfterSeconds('120', now)).toBe(120);
    expect(retryAfterSeconds('Mon, 23 Nov 2026 12:01:00 GMT', now)).toBe(60);
    expect(retryAfterSeconds('Mon, 23 Nov 2026 11:00:00 GMT', now)).toBe(0);
    expect(retryAfterSeconds('soon', now)).toBeNull();
  });
  test('do not take one link for another', () => {
    const header = '<https://a.example/?p=1>; rel="prev", <https://a.example/?p=3>; title="x, y"; rel=next';
    expect(linkOf(header, 'next')).toBe('https://a.example/?p=3');
    expect(linkOf('<x>; rel="last"', 'next')).toBeNull();
  });
});

describe('an OpenAPI document', () => {
  const document = `openapi: 3.0.3
paths:
  /stations/{station-id}/observations:
    parameters:
      - $ref: '#/components/parameters/hours'
    get:
      summary: What a station measured
      parameters: [{ name: page, in: query }]
    delete: {}
components:
  parameters:
    hours: { name: hours, in: query }`;
  test('lists what can be asked, its parameters as inputs', () => {
    const read = readOpenApi(document);
    expect(read.ok && read.operations).toEqual([
      {
        summary: 'What a station measured',
        call: {
          method: 'GET',
          path: '/stations/{station_id}/observations',
          query: [
            { name: 'hours', value: '{hours}' },
            { name: 'page', value: '{page}' },
          ],
          headers: [],
        },
      },
    ]);
  });
  test.each([
    ['{"swagger": "2.0", "paths": {}}', 'not an OpenAPI 3 document'],
    ['a: [', 'neither JSON nor YAML'],
    ['openapi: 3.1.0\npaths: {}', 'nothing that could be asked'],
  ])('that is not one says so: %s', (text, why) => {
    const read = readOpenApi(text);
    expect(!read.ok && read.why).toContain(why);
  });
});

describe('an answer is held against what it promises', () => {
  const paged = (body: unknown, count: number, headers: Record<string, string> = {}) => ({
    address: 'https://tides.example/v2/calls',
    header: (name: string) => headers[name] ?? null,
    body,
    count,
  });
  const none = { kind: 'none' } as const;

  test('so that a list which was cut off says both numbers', () => {
    expect(cutOff(none, { page: 0, fetched: 100 }, paged({ calls: [], total: 5000 }, 100))).toBe(
      '100 records came, but the service says that there are 5,000',
    );
    expect(
      cutOff(none, { page: 0, fetched: 1 }, paged({ data: { calls: { meta: { total_pages: 3 } } } }, 1)),
    ).toBe('1 page came, but the service says that there are 3');
    expect(cutOff(none, { page: 0, fetched: 5 }, paged({ page_info: { hasNextPage: true } }, 5))).toContain(
      'there are more',
    );
    expect(
      cutOff(none, { page: 0, fetched: 5 }, paged([], 5, { link: '</v2/calls?page=2>; rel="next"' })),
    ).toContain('Link header');
    expect(
      cutOff(none, { page: 0, fetched: 5 }, paged({ links: { next: '/v2/calls?page=2' } }, 5)),
    ).toContain('a next page');
  });

  test('and what adds up, or is chosen to be the first page alone, is no error', () => {
    expect(cutOff(none, { page: 0, fetched: 100 }, paged({ total: 100, next: null }, 100))).toBeNull();
    expect(cutOff(none, { page: 4, fetched: 100 }, paged({ pages: 5, has_more: false }, 20))).toBeNull();
    expect(cutOff({ kind: 'first' }, { page: 0, fetched: 100 }, paged({ total: 5000 }, 100))).toBeNull();
    // What stands in the records is no promise of the answer.
    expect(cutOff(none, { page: 0, fetched: 1 }, paged({ calls: [{ total: 900 }] }, 1))).toBeNull();
  });

  test('a service that gives fewer at a time than asked is asked on', () => {
    const paging = {
      kind: 'page',
      parameter: 'page',
      from: 1,
      size: { parameter: 'n', count: 500 },
    } as const;
    const following = (page: number, fetched: number, answer: ReturnType<typeof paged>) =>
      nextPage(paging, { page, fetched, largest: 100 }, answer);
    expect(following(0, 100, paged({ total: 5000 }, 100))).toEqual({ parameters: { page: '2', n: '500' } });
    expect(following(0, 100, paged({}, 100))).toEqual({ parameters: { page: '2', n: '500' } });
    expect(following(1, 200, paged({}, 100))).toEqual({ parameters: { page: '3', n: '500' } });
    expect(following(2, 230, paged({}, 30))).toBeNull();
    expect(following(49, 5000, paged({ total: 5000 }, 100))).toBeNull();
  });

  test('a cursor deep in an answer is found, and goes into the body that was sent', () => {
    const call: HttpCall = {
      method: 'POST',
      path: 'graph',
      query: [],
      headers: [],
      body: '{"query":"{ orders }","variables":{"first":500}}',
    };
    const body = { data: { orders: { pageInfo: { endCursor: 'abc', hasNextPage: true }, nodes: [] } } };
    const paging = recognisePaging(call, paged(body, 500));
    expect(paging).toEqual({
      kind: 'cursor',
      at: '$["data"]["orders"]["pageInfo"]["endCursor"]',
      parameter: '/variables/after',
    });
    expect(nextPage(paging, { page: 0, fetched: 500, largest: 500 }, paged(body, 500))).toEqual({
      body: { at: '/variables/after', value: 'abc' },
    });
    const last = { data: { orders: { pageInfo: { endCursor: 'xyz', hasNextPage: false } } } };
    expect(nextPage(paging, { page: 9, fetched: 5000, largest: 500 }, paged(last, 500))).toBeNull();
  });
});
