import type { Cell } from '#core/value/field/value.ts';

/* Where live values stand in a text. */

/** A text is no longer than this, in characters. */
export const longestText = 20_000;

/** A value in a text: its name in braces. */
export const valuePattern = /\{([\p{L}\p{N}][\p{L}\p{N} -]{0,59})\}/gu;

/** How a value is written into a text. */
export const written = (name: string): string => `{${name}}`;

/** A text with a value under another name. */
export const renamed = (text: string, from: string, to: string): string =>
  text.replaceAll(written(from), written(to));

/** What a note says now: its text or, while a value in that is blank, what it says otherwise. */
export function textNow(
  { text, otherwise }: { readonly text: string; readonly otherwise?: string | undefined },
  values: readonly { readonly name: string; readonly value: Cell }[],
): string {
  if (!otherwise) return text;
  const isBlank = values.some(({ name, value }) => value === null && text.includes(written(name)));
  return isBlank ? otherwise : text;
}
