import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import type { Test } from '#core/ask/condition/schema.ts';
import { mineTest } from '#core/dashboard/flow/clauses.ts';
import { listParts } from '#core/dashboard/pane/list-view.ts';
import type { Period } from '#core/value/period/schema.ts';
import { units } from '#core/value/period/units.ts';
import { queryText, readScope, writeScope } from './address.ts';
import {
  isPicked,
  withClause,
  withOwn,
  withoutLatestPick,
  withoutTest,
  withPick,
  withTest,
  withView,
} from './change.ts';
import { emptyScope, type Scope, type Vocabulary } from './state.ts';

const vocabulary: Vocabulary = {
  clauses: [
    { name: 'route', type: 'text' },
    { name: 'delay', type: 'integer' },
    { name: 'departing', type: 'instant' },
  ],
  dataSets: {
    sailings: {
      fields: [
        { name: 'id', type: 'integer' },
        { name: 'cause', type: 'text' },
        { name: 'a.b:c@week', type: 'text' },
        { name: 'departs', type: 'instant' },
      ],
      key: 'id',
      follows: [],
    },
    incidents: { fields: [{ name: 'id', type: 'integer' }], key: 'id', follows: ['sailings.id'] },
  },
  views: { late: listParts(['id', 'cause', 'delay']) },
};

const read = (search: string) => readScope(new URLSearchParams(search), vocabulary);
const text = fc
  .oneof(
    fc.string({ unit: 'grapheme', maxLength: 40 }),
    fc.constantFrom('~any', '~', 'a|b', '\\', '~blank', 'a=b', '%', '+', '&', 'مرسى'),
  )
  .map((each) => each.replaceAll('\0', ''));
const count = fc.integer({ min: 1, max: 5000 });
const unit = fc.constantFrom(...units);
const day = fc.constantFrom('2026-01-31', '2026-11-23', '2028-02-29');
const period: fc.Arbitrary<Period> = fc.oneof(
  fc
    .tuple(fc.constantFrom('last', 'next', 'ago', 'olderThan', 'onward'), count, unit)
    .map(([kind, n, each]) => ({ kind, count: n, unit: each }) as Period),
  unit.map((each) => ({ kind: 'this' as const, unit: each })),
  fc.constantFrom<Period>({ kind: 'past' }, { kind: 'future' }),
  fc.tuple(fc.option(day, { nil: null }), day).map(([from, to]) => ({ kind: 'dates' as const, from, to })),
);
const listed = fc.array(fc.option(text, { nil: null }), { minLength: 1, maxLength: 4 });
const textTest: fc.Arbitrary<Test | null> = fc.oneof(
  fc.constant(null),
  listed.map((values) => ({ op: 'is' as const, values })),
  listed.map((values) => ({ op: 'isNot' as const, values })),
  fc
    .tuple(fc.constantFrom('contains', 'lacks', 'startsWith', 'endsWith'), text)
    .map(([op, each]) => ({ op, text: each }) as Test),
  fc.constantFrom('email', 'name').map(mineTest),
);
const number = fc.integer().map(String);
const numberTest: fc.Arbitrary<Test> = fc.oneof(
  fc
    .tuple(fc.constantFrom('atMost', 'atLeast', 'below', 'above'), number)
    .map(([op, value]) => ({ op, value }) as Test),
  fc.tuple(number, number).map(([from, to]) => ({ op: 'between' as const, from, to })),
);
const ownTest = textTest
  .filter((each) => each !== null)
  .map((each) => ({ dataSet: 'sailings', field: 'cause', test: each }));
const scope: fc.Arbitrary<Scope> = fc
  .record({
    route: fc.option(textTest, { nil: undefined }),
    delay: fc.option(numberTest, { nil: undefined }),
    departing: fc.option(
      period.map((each): Test => ({ op: 'during', period: each })),
      { nil: undefined },
    ),
    own: fc.array(
      fc.array(fc.array(ownTest, { minLength: 1, maxLength: 3 }), { minLength: 1, maxLength: 3 }),
      { maxLength: 3 },
    ),
    cause: fc.option(fc.option(text, { nil: null }), { nil: undefined }),
    picked: fc.option(number, { nil: undefined }),
    page: fc.option(fc.integer({ min: 2, max: 999 }), { nil: undefined }),
  })
  .map(({ own, cause, picked, page, ...clauses }) => ({
    clauses: Object.fromEntries(
      Object.entries(clauses).filter(([, test]) => test !== undefined),
    ) as Scope['clauses'],
    own,
    focus: [
      ...(cause === undefined ? [] : [{ dataSet: 'sailings', field: 'cause', value: cause }]),
      ...(picked === undefined ? [] : [{ dataSet: 'sailings', field: 'id', value: picked }]),
    ],
    views: (page === undefined
      ? {}
      : {
          late: { page: [String(page)], order: ['-id'], find: ['x'], show: ['delay', 'cause'] },
        }) as Scope['views'],
  }));

describe('an address', () => {
  test('reads back as the scope it was written from', () => {
    fc.assert(
      fc.property(scope, (each) => {
        const again = read(queryText(writeScope(each)));
        expect(again.problems).toEqual([]);
        // Equality as addresses: a test of blank alone has two writings with one meaning.
        expect(writeScope(again.scope).toString()).toBe(writeScope(each).toString());
      }),
      { numRuns: 2000 },
    );
  });

  test('edited by hand never throws, and says what it left out', () => {
    fc.assert(
      fc.property(
        fc.array(
          fc.tuple(
            fc.oneof(
              text,
              fc.constantFrom(
                'route',
                'delay',
                'departing',
                'at',
                'and',
                'late.page',
                'late.order',
                '__proto__',
              ),
            ),
            text,
          ),
          { maxLength: 6 },
        ),
        (pairs) => {
          const { scope: found, problems } = readScope(new URLSearchParams(pairs), vocabulary);
          expect(Array.isArray(problems)).toBe(true);
          writeScope(found);
        },
      ),
      { numRuns: 3000 },
    );
  });

  test('with an unknown clause is read without it, and says so', () => {
    const { scope: found, problems } = read('harbour=x&route=Norrick');
    expect(found.clauses).toEqual({ route: { op: 'is', values: ['Norrick'] } });
    expect(problems).toEqual(['“harbour” in the address means nothing on this dashboard and was left out.']);
  });

  test('with a value of the wrong type leaves the clause out, and says so', () => {
    const { scope: found, problems } = read('delay=~atleast.soon');
    expect(found.clauses).toEqual({});
    expect(problems[0]).toContain('“soon” is not a whole number');
  });

  test('with ten thousand values leaves the clause out, and says so', () => {
    const { problems } = read(Array.from({ length: 10_000 }, (_, index) => `route=${index}`).join('&'));
    expect(problems[0]).toContain('10000 values are too many');
  });

  test('holds the reader’s own as they are nested, and as addresses of before had them', () => {
    const path = { dataSet: 'sailings', field: 'cause' };
    const is = (...values: string[]) => ({ ...path, test: { op: 'is' as const, values } });
    const isNot = (...values: string[]) => ({ ...path, test: { op: 'isNot' as const, values } });
    const from = (and: string) => readScope(new URLSearchParams({ and }), vocabulary).scope.own;
    expect(from('sailings.cause=fog|sailings.cause=tide')).toEqual([[[is('fog')], [is('tide')]]]);
    const nested = [
      [[is('fog', 'tide'), isNot('a|b', '~and.', '~also.')], [isNot('crew', 'ice')]],
      [[isNot('&')]],
    ];
    const address = writeScope({ ...emptyScope, own: nested });
    expect(readScope(address, vocabulary).scope.own).toEqual(nested);
    expect(address.get('and')).toBe(
      'sailings.cause=fog|~also.tide|~and.sailings.cause=~not.a\\|b|~also.~not.~and.|~also.~not.~also.|sailings.cause=~not.crew|~also.~not.ice',
    );
  });

  test.each([
    '~also.fog',
    'sailings.cause=fog|~and.',
    '~and.harbour.name=x',
    'sailings.cause=fog|~also.~above.1',
  ])('with %s, which is no condition, leaves it out, and says so', (and) => {
    const { scope: found, problems } = readScope(new URLSearchParams({ and }), vocabulary);
    expect(found.own).toEqual([]);
    expect(problems).toEqual([`“${and}” in the address is not understood and was left out.`]);
  });

  test('has all of a thousand values of one’s own, and none of more', () => {
    const own = (count: number) => {
      const values = Array.from({ length: count }, (_, at) => `value ${at}`);
      const test = { dataSet: 'sailings', field: 'cause', test: { op: 'isNot' as const, values } };
      return readScope(writeScope({ ...emptyScope, own: [[[test]]] }), vocabulary);
    };
    expect(own(1000).scope.own[0]?.[0]?.[0]?.test).toMatchObject({ values: { length: 1000 } });
    expect(own(1001).scope.own).toEqual([]);
    expect(own(1001).problems).toHaveLength(1);
  });

  test('can take off a clause that is set at first: absent and “any” differ', () => {
    expect(read('').scope.clauses.departing).toBeUndefined();
    expect(read('departing=~any').scope.clauses.departing).toBeNull();
  });

  test('finds a field whose name holds the marks of the grammar', () => {
    expect(read('at=sailings.a.b:c@week:x').scope.focus).toEqual([
      { dataSet: 'sailings', field: 'a.b:c@week', value: 'x' },
    ]);
  });

  test('tells a picked week from a picked moment', () => {
    expect(read('at=sailings.departs@week:2026-11-16').scope.focus).toEqual([
      { dataSet: 'sailings', field: 'departs', unit: 'week', value: '2026-11-16' },
    ]);
  });
});

describe('a pick', () => {
  const sailing = { dataSet: 'sailings', field: 'id', value: '1' };
  const incident = { dataSet: 'incidents', field: 'id', value: '9' };

  test('of another sailing drops the incident of the one before', () => {
    const both = withPick(withPick(emptyScope, sailing, vocabulary), incident, vocabulary);
    expect(both.focus).toEqual([sailing, incident]);
    const other = { ...sailing, value: '2' };
    expect(withPick(both, other, vocabulary).focus).toEqual([other]);
  });

  test('made again is taken back', () => {
    const once = withPick(emptyScope, sailing, vocabulary);
    expect(isPicked(once, sailing)).toBe(true);
    expect(withPick(once, sailing, vocabulary).focus).toEqual([]);
    expect(withoutLatestPick(once).focus).toEqual([]);
  });

  test('or a clause sends every table back to its first page', () => {
    const paged = withView(emptyScope, 'late', { page: ['4'], find: ['x'] });
    expect(withPick(paged, sailing, vocabulary).views.late).toEqual({ find: ['x'] });
    expect(withClause(paged, 'route', null).views.late?.page).toBeUndefined();
  });

  test('leaves the table that it was made in where it is', () => {
    const paged = withView(withView(emptyScope, 'late', { page: ['4'] }), 'other', { page: ['2'] });
    const { views } = withPick(paged, sailing, vocabulary, 'late');
    expect([views.late?.page, views.other?.page]).toEqual([['4'], undefined]);
  });
});

describe('a group of the reader’s own', () => {
  const of = (text: string) => ({
    dataSet: 'sailings',
    field: 'cause',
    test: { op: 'contains' as const, text },
  });
  const [fog, tide, crew] = [of('fog'), of('tide'), of('crew')];

  test('grows by what must hold as well, and by what may hold instead', () => {
    const both = withTest(withTest([], 'and', fog), 'and', tide);
    expect(both).toEqual([[fog, tide]]);
    expect(withTest(both, 'or', crew)).toEqual([[fog, tide], [crew]]);
    expect(withTest(withTest(both, 'or', crew), 'and', fog)).toEqual([
      [fog, tide],
      [crew, fog],
    ]);
  });

  test('loses one test, and a part with its last', () => {
    const group = [[fog, tide], [crew]];
    expect(withoutTest(group, tide)).toEqual([[fog], [crew]]);
    expect(withoutTest(group, crew)).toEqual([[fog, tide]]);
  });

  test('is put in its place, added behind the last, and taken off when it is empty', () => {
    const two = withOwn(withOwn(emptyScope, 0, [[fog]]), 1, [[tide]]);
    expect(two.own).toEqual([[[fog]], [[tide]]]);
    expect(withOwn(two, 0, [[crew]]).own).toEqual([[[crew]], [[tide]]]);
    expect(withOwn(two, 0, []).own).toEqual([[[tide]]]);
  });
});
