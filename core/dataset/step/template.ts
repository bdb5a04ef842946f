/* Links from RFC 6570 templates over fields: literal text, {name}, {+name}, {?a,b} and {&a,b}. */

export interface LinkPart {
  readonly text: string;
  /** The field whose value follows the text, and how it is written. */
  readonly field?: string;
  readonly operator?: '' | '+' | '?' | '&';
  /** The first of its list, for `?`. */
  readonly first?: boolean;
}

const expression = /\{([+?&]?)([^{}]+)\}/g;

/** The parts of a template in order, or null where it has what a link of a record cannot. */
export function linkParts(template: string): LinkPart[] | null {
  const parts: LinkPart[] = [];
  let from = 0;
  for (const match of template.matchAll(expression)) {
    const [whole, operator = '', list = ''] = match;
    let text = template.slice(from, match.index);
    for (const [at, name] of list.split(',').entries()) {
      if (!/^[^*:{}]+$/.test(name)) return null;
      parts.push({ text, field: name.trim(), operator: operator as '+', first: at === 0 });
      text = '';
    }
    from = match.index + whole.length;
  }
  const rest = template.slice(from);
  if (/[{}]/.test(rest) || parts.some(({ text }) => /[{}]/.test(text))) return null;
  parts.push({ text: rest });
  return parts;
}

/** The fields that a template names, or null where it cannot be read. */
export const templateNames = (template: string): string[] | null =>
  linkParts(template)?.flatMap(({ field }) => (field === undefined ? [] : [field])) ?? null;
