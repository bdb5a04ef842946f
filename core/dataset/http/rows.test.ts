import { describe, expect, test } from 'vitest';
import { findCandidates } from './candidates.ts';
import { recordValues } from './rows.ts';

const columns = ['gate', 'took'];
const rows = [
  ['Norrick', 4],
  ['Skerryhaven', 7],
];
const named = [
  { gate: 'Norrick', took: 4 },
  { gate: 'Skerryhaven', took: 7 },
];

describe('records whose fields are named once for all', () => {
  test('are offered as a place of records, with their names', () => {
    expect(findCandidates({ result: { columns, rows } })[0]).toEqual({
      path: '$.result.rows[*]',
      count: 2,
      members: columns,
    });
  });

  test.each([
    ['texts', columns],
    ['objects with a name each', [{ name: 'gate', type: 'text' }, { name: 'took' }]],
  ])('are named by %s', (_, header) => {
    expect(recordValues('$.rows[*]', { header, rows })).toEqual(named);
  });

  test('keep their names whatever the order of the columns in an answer', () => {
    const turned = { columns: ['took', 'gate'], rows: rows.map(([gate, took]) => [took, gate]) };
    expect(recordValues('$.rows[*]', turned)).toEqual(named);
  });

  test('are each named by what stands beside them, where there are several lists', () => {
    const body = [
      { columns, rows },
      { columns: ['took', 'gate'], rows: [[9, 'Fennbo']] },
    ];
    expect(recordValues('$[*].rows[*]', body)).toEqual([...named, { took: 9, gate: 'Fennbo' }]);
    expect(recordValues('$[0]["rows"][*]', body)).toEqual(named);
    const places = findCandidates(body).filter(({ path }) => path === '$[*].rows[*]');
    expect(places).toEqual([{ path: '$[*].rows[*]', count: 3, members: columns }]);
  });

  test('that are shorter are blank at their end, and that are longer are no records', () => {
    expect(recordValues('$.rows[*]', { columns, rows: [['Norrick'], ['Fennbo', 1]] })[0]).toEqual({
      gate: 'Norrick',
      took: null,
    });
    const longer = [['Norrick', 4, 'x']];
    expect(recordValues('$.rows[*]', { columns, rows: longer })).toEqual(longer);
    expect(findCandidates({ columns, rows: longer }).map(({ path }) => path)).toEqual(['$']);
  });

  test('are not named by a list that says a name twice, or is as long by chance', () => {
    expect(recordValues('$.rows[*]', { tags: ['a', 'a'], rows })).toEqual(rows);
    expect(recordValues('$.rows[*]', { sizes: [1, 2], rows })).toEqual(rows);
    expect(recordValues('$.rows[*]', { columns: ['__proto__', 'took'], rows })).toHaveLength(2);
  });
});
