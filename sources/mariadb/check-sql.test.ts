import { describe, expect, test } from 'vitest';
import { checkSelect, requireSelect } from './check-sql.ts';

const why = async (text: string): Promise<string> => {
  const checked = await checkSelect(text);
  return 'why' in checked ? checked.why : 'accepted';
};

describe('SQL text for MariaDB', () => {
  test.each([
    'SELECT * FROM berths',
    'SELECT * FROM berths;  \n',
    'WITH late AS (SELECT * FROM calls WHERE fee > :least) SELECT count(*) FROM late -- all of them',
    '(SELECT 1) UNION ALL (SELECT 2)',
    `SELECT c.id, b.name AS "berth" FROM \`calls "odd"\` c LEFT JOIN berths b ON b.id = c.berth_id WHERE b.name = :name`,
    `SELECT 'it''s # no -- comment /* at all */', "it\\"s", 'load_file(1)' FROM berths`,
    "SELECT '\\' , load_file(1) -- '",
    'SELECT concat_ws(" ", name, id), date_format(at, "%Y"), row_number() OVER (PARTITION BY name ORDER BY id) FROM calls',
    'SELECT if(late, 1, 0), case when fee > 1 then 2 end, cast(fee AS decimal(10, 2)) FROM calls # the rest',
    'SELECT json_value(extra, "$.x"), group_concat(name), date_add(now(), interval 1 day), 1 - -1 FROM calls GROUP BY name',
  ])('of one SELECT that reads is accepted: %s', async (text) => expect(await why(text)).toBe('accepted'));

  test.each([
    ['DELETE FROM berths', 'not a SELECT'],
    ['CALL p()', 'not a SELECT'],
    ['SELECT 1; DROP TABLE berths', 'more than one statement'],
    ["SELECT 'x' INTO OUTFILE '/tmp/x'", 'reaches for files'],
    ['SELECT name FROM berths INTO @kept', 'it'],
    ['/* SELECT */ UPDATE berths SET name = 1', 'not a SELECT'],
    ['SELECT * FROM berths FOR UPDATE', 'locks records'],
    ['SELECT * FROM (SELECT * FROM berths FOR UPDATE) q', 'locks records'],
    ['SELECT load_file("/etc/passwd")', 'load_file'],
    ['SELECT `load_file`("/etc/passwd")', 'load_file'],
    ['SELECT load_file/**/("/etc/passwd")', 'load_file'],
    ['SELECT /*!load_file("/etc/passwd")*/', 'would run'],
    ['SELECT 1 /*M!100100 , load_file("/etc/passwd") */', 'would run'],
    ['SELECT 1--1 , load_file("/etc/passwd")', 'two minus signs'],
    ['SELECT get_lock("a", 10)', 'get_lock'],
    ['SELECT sleep(10)', 'sleep'],
    ['SELECT (SELECT sleep(10))', 'sleep'],
    ['SELECT id FROM berths ORDER BY sleep(1)', 'sleep'],
    ['SELECT benchmark(100000000, md5(1))', 'benchmark'],
    ['SELECT release_all_locks()', 'release_all_locks'],
    ['SELECT harbour.own(1)', 'own'],
    ['SELECT own(1)', 'own'],
    ['SELECT @a := 1', 'variable'],
    ['SELECT @@datadir', 'variable'],
    ['SELECT NEXT VALUE FOR s', 'cannot be read'],
    ['SELECT nextval(s)', 'nextval'],
    ['', 'no statement'],
    ['-- nothing', 'no statement'],
    ["SELECT 'open", 'does not end'],
    ['SELECT 1 /* open', 'does not end'],
  ])('%s is refused', async (text, said) => {
    expect(await why(text)).toContain(said);
    await expect(requireSelect(text)).rejects.toThrow(said);
  });

  test('is sent without its comments, and with its strings as they were written', async () => {
    expect(await requireSelect("SELECT /* why */ 'a -- b' # what\n, 2;")).toBe("SELECT   'a -- b'  \n, 2");
  });
});
