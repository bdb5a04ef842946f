/** Words as a value of a text can be called. */
export function plainName(words: string, otherwise: string): string {
  const plain = words
    .replaceAll(/[^\p{L}\p{N} -]+/gu, ' ')
    .replaceAll(/\s+/g, ' ')
    .replace(/^[ -]+/, '')
    .slice(0, 60)
    .trim();
  return plain || otherwise;
}
