import { freeName } from '#core/value/field/free-name.ts';
import type { Clause } from './schema.ts';

/** A name for addresses, after the words of a clause, that no other clause has. */
export function freeClauseName(words: string, scope: readonly Pick<Clause, 'name'>[]): string {
  const stem =
    words
      .toLowerCase()
      .replace(/[^a-z0-9]+/g, '-')
      .replace(/^[^a-z]+|-+$/g, '')
      .slice(0, 30) || 'clause';
  const wanted = stem === 'at' || stem === 'and' ? `${stem}-1` : stem;
  return freeName(wanted, (each) => scope.some(({ name }) => name === each), '-');
}
