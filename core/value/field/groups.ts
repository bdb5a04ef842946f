import type { Field } from './field.ts';

/** What is told of fields, by what those stand under, in the order in which each begins; those that stand under nothing first. */
export const inGroups = <T extends { readonly field: Pick<Field, 'group'> }>(
  lines: readonly T[],
): { readonly head: string | undefined; readonly lines: readonly T[] }[] =>
  [...new Set([undefined, ...lines.map(({ field }) => field.group)])]
    .map((head) => ({ head, lines: lines.filter(({ field }) => field.group === head) }))
    .filter((group) => group.lines.length > 0);
