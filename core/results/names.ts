import { freeName } from '#core/value/field/free-name.ts';

/** Text as an identifier of OData (ABNF `odataIdentifier`, plain letters): what is none becomes `_`. */
const identifier = (text: string): string => {
  const plain = text
    .normalize('NFD')
    .replace(/\p{M}/gu, '')
    .replace(/[^A-Za-z0-9_]+/g, '_')
    .slice(0, 100);
  return /^[A-Za-z_]/.test(plain) ? plain : `_${plain}`;
};

/** Identifiers for texts, one for each in their order, no two alike. */
export function identifiersFor(texts: readonly string[]): string[] {
  const taken = new Set<string>();
  return texts.map((text) => {
    const free = freeName(identifier(text), (each) => taken.has(each));
    taken.add(free);
    return free;
  });
}
