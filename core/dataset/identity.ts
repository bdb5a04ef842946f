import type { Field } from '#core/value/field/field.ts';

/* What identifies and what names a record, guessed from the names of fields and from what was measured of them. Pure. */

/** The words of a name: "orderNo", "order_no" and "Order No." are "order" and "no". */
const words = (name: string): string[] =>
  name
    .replace(/([a-z0-9])([A-Z])/g, '$1 $2')
    .toLowerCase()
    .split(/[^\p{L}\p{N}]+/u)
    .filter(Boolean);

const identifying = new Set(['id', 'key', 'uuid', 'guid', 'ref', 'reference', 'code', 'no', 'nr', 'number']);
const naming = new Set(['name', 'title', 'label', 'subject', 'summary']);

/** How surely a name is that of what identifies a record of a noun; 0: not at all. */
function identifies(name: string, noun: string): number {
  const parts = words(name);
  const last = parts.at(-1) ?? '';
  const own = words(noun);
  const rest = identifying.has(last) ? parts.slice(0, -1) : parts;
  const isOwn = rest.length === own.length && rest.every((part, at) => part === own[at]);
  if (isOwn) return identifying.has(last) ? 4 : 3;
  if (parts.length === 1 && identifying.has(last)) return 2;
  return identifying.has(last) ? 1 : 0;
}

/** Fields whose names could be those of what identifies a record, the likeliest first. */
export function likelyKeys(fields: readonly Pick<Field, 'name' | 'type'>[], noun: string): string[] {
  return fields
    .filter(({ type }) => type === 'text' || type === 'integer')
    .map(({ name }) => ({ name, rank: identifies(name, noun) }))
    .filter(({ rank }) => rank > 0)
    .sort((a, b) => b.rank - a.rank)
    .map(({ name }) => name);
}

/**
 * What identifies a record and what names it, as far as that can be told: the likeliest of the fields that were measured to
 * be filled and different in every record, and a field that is called a name and is not always blank.
 */
export function proposedIdentity(
  fields: readonly Pick<Field, 'name' | 'type'>[],
  noun: string,
  measured: { readonly isUnique: (name: string) => boolean; readonly isBlank: (name: string) => boolean },
): { readonly key?: string; readonly title?: string } {
  const key = likelyKeys(fields, noun).find(measured.isUnique);
  const title = namingField(fields.filter(({ name }) => !measured.isBlank(name)));
  return { ...(key === undefined ? {} : { key }), ...(title === undefined ? {} : { title }) };
}

/** The field whose name says that it names a record: one that says nothing else, before one that says whose name it is. */
export function namingField(fields: readonly Pick<Field, 'name' | 'type'>[]): string | undefined {
  const named = fields.filter(({ name, type }) => type === 'text' && naming.has(words(name).at(-1) ?? ''));
  return (named.find(({ name }) => words(name).length === 1) ?? named[0])?.name;
}
