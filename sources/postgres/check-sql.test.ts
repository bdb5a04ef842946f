import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { checkSql } from './check-sql.ts';

const why = async (text: string): Promise<string> => {
  const checked = await checkSql(text);
  return checked.ok ? 'accepted' : checked.problem.why;
};

describe('SQL text', () => {
  test.each([
    'SELECT * FROM sailings',
    'SELECT * FROM sailings;  \n',
    'WITH late AS (SELECT * FROM sailings WHERE delay > :least) SELECT count(*) FROM late -- all of them',
    'SELECT 1 UNION ALL SELECT 2',
    'SELECT \':not\' AS a, "x:y" FROM t WHERE b = :input::integer',
    'VALUES (1), (2)',
  ])('of one SELECT is accepted: %s', async (text) => {
    expect(await why(text)).toBe('accepted');
  });

  test('of two statements is refused', async () => {
    expect(await why('SELECT 1; SELECT 2')).toBe('it holds 2 statements');
    expect(await why('SELECT 1; DROP TABLE sailings')).toBe('it holds 2 statements');
  });

  test.each([
    ['INSERT INTO t VALUES (1)', 'not a SELECT'],
    ['UPDATE t SET a = 1', 'not a SELECT'],
    ['DROP TABLE t', 'not a SELECT'],
    ['BEGIN', 'not a SELECT'],
    ["COPY t TO PROGRAM 'id'", 'not a SELECT'],
    ['WITH gone AS (DELETE FROM t RETURNING *) SELECT * FROM gone', 'delete records'],
    ['WITH new AS (INSERT INTO t VALUES (1) RETURNING *) SELECT * FROM new', 'insert records'],
    ['SELECT * INTO copy FROM t', 'make a table'],
    ['SELECT * FROM t FOR UPDATE', 'lock records'],
    ['', 'no statement'],
    ['-- nothing', 'no statement'],
    ['SELECT $1', 'numbered placeholder'],
  ])('%s is refused', async (text, said) => {
    expect(await why(text)).toContain(said);
  });

  test('names every function that it calls, wherever it stands', async () => {
    const checked = await checkSql(
      'WITH a AS (SELECT lower(b) FROM f(1)) SELECT max(c) FILTER (WHERE s.g(c)) OVER (ORDER BY h(d)) FROM a, LATERAL pg_catalog.PG_SLEEP(1) LIMIT k()',
    );
    expect(
      checked.ok && checked.functions.map(({ schema, name }) => (schema ? `${schema}.${name}` : name)).sort(),
    ).toEqual(['f', 'h', 'k', 'lower', 'max', 'pg_catalog.pg_sleep', 's.g']);
  });

  test('with a mistake is refused in the parser’s words, with the place', async () => {
    const checked = await checkSql('SELECT FROM WHERE');
    expect(checked.ok).toBe(false);
    expect(!checked.ok && checked.problem.why).toContain('syntax error');
    expect(!checked.ok && checked.position).toBeGreaterThan(0);
  });

  test('of any kind is either accepted or refused, and never breaks the check', async () => {
    const piece = fc.constantFrom(
      'SELECT',
      '*',
      'FROM',
      't',
      ';',
      '(',
      ')',
      "'",
      '"',
      '--',
      '/*',
      '*/',
      ':a',
      '$$',
      '$1',
      ',',
      '1',
      'INTO',
      '\n',
      '🚢',
      '\\',
    );
    await fc.assert(
      fc.asyncProperty(fc.array(piece, { maxLength: 14 }), async (pieces) => {
        const checked = await checkSql(pieces.join(' '));
        expect(typeof checked.ok).toBe('boolean');
      }),
      { numRuns: 400 },
    );
  });
});
