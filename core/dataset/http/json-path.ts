import { jsonpath } from 'json-p3';
import { RE2JS } from 're2js';

/** A pattern longer than this is refused: it matches nothing. */
const longestPattern = 1000;
const mostPatterns = 100;
const compiled = new Map<string, RE2JS | null>();

/** An I-Regexp (RFC 9485) on an engine whose time grows with the text and no faster; null where it is none. */
function patternOf(text: string): RE2JS | null {
  const known = compiled.get(text);
  if (known !== undefined) return known;
  let pattern: RE2JS | null = null;
  try {
    if (text.length <= longestPattern) pattern = RE2JS.compile(text);
  } catch {
    // RFC 9535, 2.4.6: what is no pattern matches nothing.
  }
  if (compiled.size >= mostPatterns) compiled.clear();
  compiled.set(text, pattern);
  return pattern;
}

const environment = new jsonpath.JSONPathEnvironment();
for (const [name, test] of [
  ['match', (pattern: RE2JS, text: string) => pattern.matches(text)],
  ['search', (pattern: RE2JS, text: string) => pattern.matcher(text).find()],
] as const) {
  const standard = environment.functionRegister.get(name);
  if (!standard) throw new Error(`JSONPath has no function ${name}`);
  environment.functionRegister.set(name, {
    argTypes: standard.argTypes,
    returnType: standard.returnType,
    call: (text: unknown, pattern: unknown): boolean => {
      const read = typeof text === 'string' && typeof pattern === 'string' ? patternOf(pattern) : null;
      return read !== null && test(read, text as string);
    },
  });
}

/** The values at a JSONPath (RFC 9535). Throws what says why a path cannot be one. */
export const valuesAt = (path: string, body: unknown): unknown[] =>
  environment.query(path, body as never).values() as unknown[];
