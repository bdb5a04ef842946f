/* Exact division. DuckDB's own of decimals goes through a float. */

/**
 * `exact_quotient(a, b)`: a ÷ b rounded to 12 decimals, half away from zero, as DECIMAL(38, 12); blank for b = 0. Whole
 * arithmetic on the unscaled numbers, since DuckDB's own division of decimals goes through a float. A quotient that needs
 * more than 38 digits is an error, never a rounded one.
 */
export const quotientMacros = [
  // A macro writes its arguments out wherever they stand; the lambdas are there so that each is written and bound once.
  // Their names end in an underscore lest they be taken for a table's.
  // A decimal as text without the zeros that only its column's scale gives it.
  `CREATE MACRO plain_decimal(t) AS CASE WHEN contains(t, '.') THEN rtrim(rtrim(t, '0'), '.') ELSE t END`,
  `CREATE MACRO decimals_of(t) AS CASE WHEN contains(t, '.') THEN length(t) - position('.' IN t) ELSE 0 END`,
  `CREATE MACRO unscaled_of(t) AS CAST(replace(t, '.', '') AS HUGEINT)`,
  `CREATE MACRO power_of_ten(n) AS CAST('1' || repeat('0', CAST(n AS BIGINT)) AS HUGEINT)`,
  `CREATE MACRO divided(a, b) AS sign(a) * sign(b) * ((abs(a) // abs(b)) * 1000000000000::HUGEINT
     + ((abs(a) % abs(b)) * 2000000000000::HUGEINT + abs(b)) // (2 * abs(b)))`,
  `CREATE MACRO digits_of(n) AS
     lpad(CAST(abs(n) AS VARCHAR), CAST(greatest(13, length(CAST(abs(n) AS VARCHAR))) AS INTEGER), '0')`,
  `CREATE MACRO with_12_decimals(n, t) AS
     CAST(CASE WHEN n < 0 THEN '-' ELSE '' END || t[:-13] || '.' || t[-12:] AS DECIMAL(38, 12))`,
  // Nearly all numbers are small enough for 64 bits throughout: the whole part, then twice six decimals of what is left, then
  // the half that decides. A divisor of at most 4·10¹² leaves room for each rest times a million.
  `CREATE MACRO quick_units(a, b) AS (a // b) * 1000000000000::HUGEINT
     + (((a % b) * 1000000) // b) * 1000000
     + ((((a % b) * 1000000) % b) * 1000000) // b
     + CASE WHEN (((((a % b) * 1000000) % b) * 1000000) % b) * 2 >= b THEN 1 ELSE 0 END`,
  `CREATE MACRO quick_quotient(a, b) AS
     CAST(sign(a) * sign(b) * quick_units(abs(a), abs(b)) AS DECIMAL(38, 0)) * 0.000000000001::DECIMAL(12, 12)`,
  `CREATE MACRO is_quick_divisor(b) AS b BETWEEN -4000000000000 AND 4000000000000`,
  // Of whole numbers of 64 bits. Where 64 bits are too few on the way, 128 are not, and no text is made of them.
  `CREATE MACRO wide_quotient(a, b) AS
     CAST(sign(a) * sign(b) * ((abs(a) * 2000000000000::HUGEINT + abs(b)) // (2 * abs(b))) AS DECIMAL(38, 0)) * 0.000000000001::DECIMAL(12, 12)`,
  `CREATE MACRO whole_quotient(a, b) AS list_transform(
     [{a: CAST(a AS BIGINT), b: CAST(b AS BIGINT)}],
     lambda both_: CASE WHEN both_.b = 0 THEN NULL
       WHEN is_quick_divisor(both_.b) AND both_.a > -9223372036854775807 THEN quick_quotient(both_.a, both_.b)
       ELSE wide_quotient(CAST(both_.a AS HUGEINT), CAST(both_.b AS HUGEINT)) END)[1]`,
  `CREATE MACRO long_quotient(a, b) AS list_transform(list_transform(list_transform(
     [{a: CAST(a AS VARCHAR), b: CAST(b AS VARCHAR)}],
     lambda texts_: {
       a: unscaled_of(texts_.a) * power_of_ten(greatest(0, decimals_of(texts_.b) - decimals_of(texts_.a))),
       b: unscaled_of(texts_.b) * power_of_ten(greatest(0, decimals_of(texts_.a) - decimals_of(texts_.b)))}),
     lambda whole_: CASE WHEN whole_.b = 0 THEN NULL ELSE divided(whole_.a, whole_.b) END),
     lambda quotient_: with_12_decimals(quotient_, digits_of(quotient_)))[1]`,
  // A number of at most six decimals in millionths; blank for one of more. In 64 bits all the way: 128 take ten times as long.
  `CREATE MACRO millionths_of(small) AS CAST(trunc(small) AS BIGINT) * 1000000
     + CAST((small - CAST(trunc(small) AS DECIMAL(11, 0))) * 1000000 AS BIGINT)`,
  `CREATE MACRO millionths(a) AS CASE WHEN TRY_CAST(a AS DECIMAL(17, 6)) = a THEN millionths_of(TRY_CAST(a AS DECIMAL(17, 6))) END`,
  `CREATE MACRO exact_quotient(a, b) AS list_transform(list_transform(
     [{a: a, b: b}],
     lambda given_: {a: given_.a, b: given_.b, small_a: millionths(given_.a), small_b: millionths(given_.b)}),
     lambda both_: CASE WHEN both_.b = 0 THEN NULL
       WHEN both_.small_a IS NOT NULL AND is_quick_divisor(both_.small_b) THEN quick_quotient(both_.small_a, both_.small_b)
       ELSE long_quotient(both_.a, both_.b) END)[1]`,
];
