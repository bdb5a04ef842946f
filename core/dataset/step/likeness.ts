import type { Field } from '#core/value/field/field.ts';
import { isTemporal } from '#core/value/field/value.ts';

/* Which fields of two data sets are likely to name the same things. Pure: by what is said of them, not by their values. */

/** A data set that ours may be matched with. */
interface Matched {
  readonly fields: readonly Field[];
  readonly key?: string | undefined;
}

const bare = (name: string): string => name.toLowerCase().replace(/[^a-z0-9]/g, '');

/** 0: not at all; then a name that ends alike, one name, one name that identifies, one meaning or a foreign key. */
export function likeness(ours: Field, theirs: Field, { key }: Pick<Matched, 'key'>): number {
  const { type } = ours;
  if (type !== theirs.type) return 0;
  if (type === 'nested' || type === 'boolean' || type === 'float' || isTemporal(type)) return 0;
  if (ours.refers !== undefined && (ours.refers === theirs.origin || ours.refers === theirs.refers)) return 4;
  const [a, b] = [bare(ours.name), bare(theirs.name)];
  if (a === b) return theirs.name === key ? 3 : 2;
  return theirs.name === key && (a.endsWith(b) || b.endsWith(a)) ? 1 : 0;
}

/** The data set of several that a field of ours is likeliest to be looked up in; the first where none is likelier. */
export function likelyOther<T extends Matched>(
  ours: readonly Field[],
  others: readonly (readonly [string, T])[],
): readonly [string, T] | undefined {
  const rank = ({ fields, key }: T): number =>
    Math.max(0, ...ours.flatMap((field) => fields.map((each) => likeness(field, each, { key }))));
  return [...others].sort(([, a], [, b]) => rank(b) - rank(a))[0];
}

/** The fields that two data sets are matched by until somebody says otherwise: the most alike, else one of the key's type. */
export function likelyPair(
  ours: readonly Field[],
  other: Matched,
): { readonly field: string; readonly other: string } {
  const pairs = ours.flatMap((field) =>
    other.fields.map((each) => ({ field: field.name, other: each.name, rank: likeness(field, each, other) })),
  );
  const [best] = pairs.filter(({ rank }) => rank > 0).sort((a, b) => b.rank - a.rank);
  if (best) return { field: best.field, other: best.other };
  const key = other.fields.find(({ name }) => name === other.key) ?? other.fields[0];
  return { field: ours.find(({ type }) => type === key?.type)?.name ?? '', other: key?.name ?? '' };
}
