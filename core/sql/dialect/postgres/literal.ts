import type { BoundValue } from '#core/sql/fragment.ts';
import type { Dialect } from '../dialect.ts';
import { castNames, postgres } from './dialect.ts';

const quoted = (text: string): string => {
  if (text.includes('\0')) throw new TypeError('a text of PostgreSQL cannot hold a NUL character');
  return `'${text.replaceAll("'", "''")}'`;
};

const written = ({ type, value }: BoundValue): string => {
  const name = castNames[type];
  if (value === null) return `NULL::${name}`;
  return typeof value === 'string'
    ? `${quoted(value)}::${name}`
    : `ARRAY[${value.map(quoted).join(', ')}]::${name}[]`;
};

/**
 * PostgreSQL with each value written into the text as a literal (ISO/IEC 9075; the session must have
 * `standard_conforming_strings`), for what takes no bound values: COPY.
 */
export const postgresLiterals: Dialect = { ...postgres, placeholder: (_, value) => written(value) };
