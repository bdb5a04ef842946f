import type { Filter, FilterTest } from '#core/ask/condition/resolve.ts';
import type { Field } from '#core/value/field/field.ts';
import { parseValue } from '#core/value/field/value.ts';
import type { Property } from './entity.ts';

/*
 * `$filter` of OData v4 (OASIS 4.01, 5.1.1) as a filter of ours. A comparison with nothing is neither true nor false there, so a `not` goes
 * inwards to the comparisons, which then still need a value.
 */

/** Why an address cannot be answered, in a sentence. */
export class QueryProblem extends Error {}

const comparisons = ['eq', 'ne', 'gt', 'ge', 'lt', 'le'] as const;
type Comparison = (typeof comparisons)[number];
const opposite: Readonly<Record<Comparison, Comparison>> = {
  eq: 'ne',
  ne: 'eq',
  gt: 'le',
  le: 'gt',
  lt: 'ge',
  ge: 'lt',
};
const ordered = { gt: 'above', ge: 'atLeast', lt: 'below', le: 'atMost' } as const;
const textTests = { contains: 'contains', startswith: 'startsWith', endswith: 'endsWith' } as const;
type TextTest = keyof typeof textTests;

interface Token {
  readonly kind: 'word' | 'text' | 'mark';
  readonly text: string;
}

/** Texts in quotes, marks, and everything else between them. */
const tokens = /\s*(?:'((?:[^']|'')*)'|([(),])|([^\s(),']+))/y;
const longest = 20_000;
const deepest = 30;

function tokensOf(text: string): Token[] {
  if (text.length > longest) throw new QueryProblem('$filter is too long.');
  const found: Token[] = [];
  tokens.lastIndex = 0;
  while (tokens.lastIndex < text.trimEnd().length) {
    const at = tokens.lastIndex;
    const match = tokens.exec(text);
    if (!match) throw new QueryProblem(`$filter cannot be read from its ${at + 1}th character on.`);
    const [, quoted, mark, word] = match;
    if (quoted !== undefined) found.push({ kind: 'text', text: quoted.replaceAll("''", "'") });
    else if (mark !== undefined) found.push({ kind: 'mark', text: mark });
    else found.push({ kind: 'word', text: word ?? '' });
  }
  return found;
}

/** Reads `$filter` over the properties of an entity set. Throws a {@link QueryProblem}. */
export function readFilter(text: string, properties: readonly Property[]): Filter {
  const reader = new Reader(tokensOf(text), properties);
  const filter = reader.either(false, 0);
  reader.end();
  return filter;
}

const filled = (field: string): Filter => ({ field, test: { op: 'filled' } });
const one = (field: string, test: FilterTest): Filter => ({ field, test });

class Reader {
  private at = 0;
  constructor(
    private readonly tokens: readonly Token[],
    private readonly properties: readonly Property[],
  ) {}

  private get next(): Token | undefined {
    return this.tokens[this.at];
  }
  private isNext(text: string): boolean {
    return this.next?.text === text && this.next.kind !== 'text';
  }
  private take(text: string): void {
    if (!this.isNext(text))
      throw new QueryProblem(`$filter needs “${text}” where it has “${this.next?.text ?? 'its end'}”.`);
    this.at += 1;
  }
  private word(): string {
    const { next } = this;
    if (next?.kind !== 'word')
      throw new QueryProblem(`$filter needs a name where it has “${next?.text ?? 'its end'}”.`);
    this.at += 1;
    return next.text;
  }
  end(): void {
    if (this.next) throw new QueryProblem(`$filter goes on with “${this.next.text}” where it should end.`);
  }

  /** `or`, which under a `not` is an `and` of what is not. */
  either(isNot: boolean, depth: number): Filter {
    const parts = [this.both(isNot, depth)];
    while (this.isNext('or')) {
      this.at += 1;
      parts.push(this.both(isNot, depth));
    }
    const [only] = parts;
    if (parts.length === 1 && only) return only;
    return isNot ? { all: parts } : { any: parts };
  }

  private both(isNot: boolean, depth: number): Filter {
    const parts = [this.single(isNot, depth)];
    while (this.isNext('and')) {
      this.at += 1;
      parts.push(this.single(isNot, depth));
    }
    const [only] = parts;
    if (parts.length === 1 && only) return only;
    return isNot ? { any: parts } : { all: parts };
  }

  private single(isNot: boolean, depth: number): Filter {
    if (depth > deepest) throw new QueryProblem('$filter is nested too deep.');
    if (this.isNext('not')) {
      this.at += 1;
      return this.single(!isNot, depth + 1);
    }
    if (this.isNext('(')) {
      this.at += 1;
      const inner = this.either(isNot, depth + 1);
      this.take(')');
      return inner;
    }
    const name = this.word();
    if (name in textTests) return this.textTest(name as TextTest, isNot);
    if (name === 'tolower' || name === 'toupper') return this.folded(isNot);
    return this.comparison(this.property(name), isNot);
  }

  private property(name: string): Field {
    const found = this.properties.find((each) => each.name === name);
    if (!found) throw new QueryProblem(`There is no property “${name}” here.`);
    return found.field;
  }

  private comparison(field: Field, isNot: boolean): Filter {
    const word = this.word();
    if (word === 'in') return this.among(field, isNot);
    const said = comparisons.find((each) => each === word);
    if (!said) throw new QueryProblem(`$filter does not know “${word}”.`);
    const how = isNot ? opposite[said] : said;
    const value = this.literal(field);
    if (value === null) {
      if (how === 'eq') return one(field.name, { op: 'blank' });
      if (how === 'ne') return filled(field.name);
      // Nothing is above or below nothing.
      return { all: [one(field.name, { op: 'blank' }), filled(field.name)] };
    }
    const same = one(field.name, { op: 'same', value });
    if (how === 'eq') return same;
    // What is without a value is other than any; under a `not` of an equality too, since that is false and not unknown.
    if (how === 'ne') return { none: [same] };
    return one(field.name, { op: ordered[how], value });
  }

  private among(field: Field, isNot: boolean): Filter {
    this.take('(');
    const values = [this.literal(field)];
    while (this.isNext(',')) {
      this.at += 1;
      values.push(this.literal(field));
    }
    this.take(')');
    const any: Filter = {
      any: values.map((value) => one(field.name, value === null ? { op: 'blank' } : { op: 'same', value })),
    };
    return isNot ? { none: [any] } : any;
  }

  private textTest(name: TextTest, isNot: boolean): Filter {
    this.take('(');
    const field = this.property(this.word());
    this.take(',');
    const text = this.text();
    this.take(')');
    const test = one(field.name, { op: textTests[name], text });
    return isNot ? { all: [filled(field.name), { none: [test] }] } : test;
  }

  /** `tolower(name) eq 'text'`: whatever the case. */
  private folded(isNot: boolean): Filter {
    this.take('(');
    const field = this.property(this.word());
    this.take(')');
    const word = this.word();
    if (word !== 'eq' && word !== 'ne')
      throw new QueryProblem(`$filter does not know “${word}” of a text in one case.`);
    const test = one(field.name, { op: 'is', values: [this.text()] });
    return (word === 'eq') === isNot ? { none: [test] } : test;
  }

  private text(): string {
    const { next } = this;
    if (next?.kind !== 'text')
      throw new QueryProblem(`$filter needs a text in quotes where it has “${next?.text ?? 'its end'}”.`);
    this.at += 1;
    return next.text;
  }

  /** A value of a field; null is none. */
  private literal({ name, type }: Field): string | null {
    const { next } = this;
    if (!next || next.kind === 'mark') throw new QueryProblem('$filter needs a value where it has none.');
    this.at += 1;
    const isText = type === 'text' || type === 'nested';
    if (next.kind === 'word' && next.text === 'null') return null;
    if (isText !== (next.kind === 'text'))
      throw new QueryProblem(
        `“${next.text}” is not a value of “${name}”: texts stand in quotes, and others do not.`,
      );
    const read = parseValue(type, next.text);
    if (!read.ok) throw new QueryProblem(`${read.why}.`);
    return read.value;
  }
}
