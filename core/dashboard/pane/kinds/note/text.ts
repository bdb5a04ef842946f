/* Where live values stand in a text. */

/** A value in a text: its name in braces. */
export const valuePattern = /\{([\p{L}\p{N}][\p{L}\p{N} -]{0,59})\}/gu;

/** How a value is written into a text. */
export const written = (name: string): string => `{${name}}`;

/** A text with a value under another name. */
export const renamed = (text: string, from: string, to: string): string =>
  text.replaceAll(written(from), written(to));
