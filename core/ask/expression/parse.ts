import { putRecent } from '#core/value/recent.ts';
import { type At, ExpressionError, type Token, tokenise } from './tokens.ts';

/* Scalar expressions of standard SQL (ISO/IEC 9075-2, chapter 6), as typed by a person. */

export const intervalUnits = ['year', 'month', 'week', 'day', 'hour', 'minute', 'second'] as const;
export type IntervalUnit = (typeof intervalUnits)[number];
export const parts = [
  'year',
  'quarter',
  'month',
  'week',
  'day',
  'isodow',
  'hour',
  'minute',
  'second',
  'epoch',
] as const;
export type Part = (typeof parts)[number];
export type Binary = '+' | '-' | '*' | '/' | '%' | '||' | '=' | '<>' | '<' | '<=' | '>' | '>=' | 'and' | 'or';
export const castTypes = {
  text: 'text',
  varchar: 'text',
  integer: 'integer',
  bigint: 'integer',
  numeric: 'decimal',
  decimal: 'decimal',
  'double precision': 'float',
  boolean: 'boolean',
  date: 'date',
  timestamp: 'instant',
} as const;

export type Expression = { readonly at: At } & (
  | { readonly kind: 'field'; readonly name: string }
  | {
      readonly kind: 'literal';
      readonly type: 'text' | 'integer' | 'decimal' | 'boolean' | 'date' | 'instant' | 'blank';
      readonly value: string | null;
    }
  | { readonly kind: 'interval'; readonly amount: string; readonly unit: IntervalUnit }
  | { readonly kind: 'now'; readonly of: 'date' | 'instant' }
  | { readonly kind: 'negative' | 'not'; readonly of: Expression }
  | {
      readonly kind: 'binary';
      readonly op: Binary;
      readonly left: Expression;
      readonly right: Expression;
    }
  | { readonly kind: 'blank'; readonly of: Expression; readonly not: boolean }
  | { readonly kind: 'differs'; readonly left: Expression; readonly right: Expression; readonly not: boolean }
  | {
      readonly kind: 'between';
      readonly of: Expression;
      readonly low: Expression;
      readonly high: Expression;
      readonly not: boolean;
    }
  | {
      readonly kind: 'in';
      readonly of: Expression;
      readonly list: readonly Expression[];
      readonly not: boolean;
    }
  | { readonly kind: 'like'; readonly of: Expression; readonly pattern: string; readonly not: boolean }
  | {
      readonly kind: 'case';
      readonly when: readonly { readonly is: Expression; readonly result: Expression }[];
      readonly otherwise: Expression | null;
    }
  | {
      readonly kind: 'cast';
      readonly of: Expression;
      readonly to: (typeof castTypes)[keyof typeof castTypes];
    }
  | { readonly kind: 'extract'; readonly part: Part; readonly of: Expression }
  | { readonly kind: 'call'; readonly name: string; readonly args: readonly Expression[] }
);

const deepestExpression = 60;

/** Words that cannot be a field's bare name; a field that is called so is written in double quotes. */
export const reservedWords = new Set(
  'and or not is null true false between in like case when then else end cast as extract from for interval date timestamp current_date current_timestamp distinct trim substring position both leading trailing'.split(
    ' ',
  ),
);

/** What was read lately, the oldest first: each query and each key typed asks for the same expressions again. */
const read = new Map<string, Expression>();
const mostRead = 500;

/** Reads an expression. Throws an {@link ExpressionError} that says what is wrong and where. */
export function parseExpression(text: string): Expression {
  const known = read.get(text);
  if (known) return known;
  const expression = new Parser(tokenise(text)).whole();
  putRecent(read, text, expression, mostRead);
  return expression;
}

const comparisons = ['=', '<>', '<', '<=', '>', '>='];

class Parser {
  private next = 0;
  private depth = 0;

  constructor(private readonly tokens: readonly Token[]) {}

  whole(): Expression {
    if (this.peek().kind === 'end')
      throw new ExpressionError('there is nothing to work out yet', this.peek().at);
    const found = this.expression();
    if (this.peek().kind !== 'end') throw this.unexpected();
    return found;
  }

  private peek(ahead = 0): Token {
    return this.tokens[Math.min(this.next + ahead, this.tokens.length - 1)] as Token;
  }

  private take(): Token {
    const token = this.peek();
    this.next += 1;
    return token;
  }

  private unexpected(wanted?: string): ExpressionError {
    const token = this.peek();
    const found = token.kind === 'end' ? 'the end' : `“${token.text}”`;
    return new ExpressionError(
      wanted ? `${wanted} is missing before ${found}` : `${found} has no meaning here`,
      token.at,
    );
  }

  private isWord(...words: string[]): boolean {
    const token = this.peek();
    return token.kind === 'word' && words.includes(token.text.toLowerCase());
  }

  private isSign(...signs: string[]): boolean {
    const token = this.peek();
    return token.kind === 'sign' && signs.includes(token.text);
  }

  private word(...words: string[]): boolean {
    if (!this.isWord(...words)) return false;
    this.next += 1;
    return true;
  }

  private sign(...signs: string[]): string | null {
    if (!this.isSign(...signs)) return null;
    return this.take().text;
  }

  private must(what: string): void {
    const found = /\w/.test(what) ? this.word(what) : this.sign(what) !== null;
    if (!found) throw this.unexpected(`“${what.toUpperCase()}”`);
  }

  private since(from: number): At {
    return { from, to: this.tokens[this.next - 1]?.at.to ?? from };
  }

  private expression(): Expression {
    this.depth += 1;
    if (this.depth > deepestExpression) throw new ExpressionError('it is nested too deeply', this.peek().at);
    const found = this.chain(['or'], () => this.chain(['and'], () => this.negation()));
    this.depth -= 1;
    return found;
  }

  private chain(words: ('and' | 'or')[], operand: () => Expression): Expression {
    let left = operand();
    while (this.isWord(...words)) {
      const op = this.take().text.toLowerCase() as Binary;
      left = this.binary(op, left, operand());
    }
    return left;
  }

  private binary(op: Binary, left: Expression, right: Expression): Expression {
    return { kind: 'binary', op, left, right, at: { from: left.at.from, to: right.at.to } };
  }

  private negation(): Expression {
    const { from } = this.peek().at;
    let nots = 0;
    while (this.word('not')) nots += 1;
    const of = this.predicate();
    return nots % 2 === 1 ? { kind: 'not', of, at: this.since(from) } : of;
  }

  private predicate(): Expression {
    let left = this.sum();
    const { from } = left.at;
    for (;;) {
      const op = this.sign(...comparisons);
      if (op !== null) {
        left = this.binary(op as Binary, left, this.sum());
        continue;
      }
      if (this.word('is')) {
        const not = this.word('not');
        if (this.word('null')) left = { kind: 'blank', of: left, not, at: this.since(from) };
        else {
          this.must('distinct');
          this.must('from');
          const right = this.sum();
          left = { kind: 'differs', left, right, not, at: this.since(from) };
        }
        continue;
      }
      const not = this.isWord('not');
      if (not) this.next += 1;
      if (this.word('between')) {
        const low = this.sum();
        this.must('and');
        const high = this.sum();
        left = { kind: 'between', of: left, low, high, not, at: this.since(from) };
      } else if (this.word('in')) {
        this.must('(');
        left = { kind: 'in', of: left, list: this.list(), not, at: this.since(from) };
      } else if (this.word('like')) {
        const pattern = this.take();
        if (pattern.kind !== 'text')
          throw new ExpressionError("LIKE takes a pattern in quotes, such as 'NRK%'", pattern.at);
        left = { kind: 'like', of: left, pattern: pattern.text, not, at: this.since(from) };
      } else if (not) throw this.unexpected('BETWEEN, IN or LIKE');
      else return left;
    }
  }

  private sum(): Expression {
    let left = this.product();
    for (let op = this.sign('+', '-', '||'); op !== null; op = this.sign('+', '-', '||'))
      left = this.binary(op as Binary, left, this.product());
    return left;
  }

  private product(): Expression {
    let left = this.signed();
    for (let op = this.sign('*', '/', '%'); op !== null; op = this.sign('*', '/', '%'))
      left = this.binary(op as Binary, left, this.signed());
    return left;
  }

  private signed(): Expression {
    const { from } = this.peek().at;
    let minuses = 0;
    for (let sign = this.sign('-', '+'); sign !== null; sign = this.sign('-', '+'))
      if (sign === '-') minuses += 1;
    const of = this.primary();
    return minuses % 2 === 1 ? { kind: 'negative', of, at: this.since(from) } : of;
  }

  /** The expressions up to a closing bracket, whose opening one is taken already. */
  private list(): Expression[] {
    const found = [this.expression()];
    while (this.sign(',')) found.push(this.expression());
    this.must(')');
    return found;
  }

  private text(what: string): string {
    const token = this.take();
    if (token.kind === 'text') return token.text;
    throw new ExpressionError(`${what} is written in quotes`, token.at);
  }

  private primary(): Expression {
    const token = this.peek();
    const { from } = token.at;
    switch (token.kind) {
      case 'number':
        this.next += 1;
        return {
          kind: 'literal',
          type: token.text.includes('.') ? 'decimal' : 'integer',
          value: token.text.replace(/\.$/, '').replace(/^\./, '0.'),
          at: token.at,
        };
      case 'text':
        this.next += 1;
        return { kind: 'literal', type: 'text', value: token.text, at: token.at };
      case 'quoted':
        this.next += 1;
        return { kind: 'field', name: token.text, at: token.at };
      case 'sign':
        if (this.sign('(')) {
          const inside = this.expression();
          this.must(')');
          return { ...inside, at: this.since(from) };
        }
        throw this.unexpected();
      case 'end':
        throw this.unexpected();
      case 'word':
        return this.named(from);
    }
  }

  private named(from: number): Expression {
    const token = this.take();
    const word = token.text.toLowerCase();
    const literal = (
      type: Extract<Expression, { kind: 'literal' }>['type'],
      value: string | null,
    ): Expression => ({ kind: 'literal', type, value, at: this.since(from) });
    switch (word) {
      case 'null':
        return literal('blank', null);
      case 'true':
      case 'false':
        return literal('boolean', word);
      case 'current_date':
        return { kind: 'now', of: 'date', at: token.at };
      case 'current_timestamp':
        return { kind: 'now', of: 'instant', at: token.at };
      case 'case':
        return this.cases(from);
      case 'interval': {
        const amount = this.text('the length of an interval');
        const unit = this.take().text.toLowerCase().replace(/s$/, '');
        if (!(intervalUnits as readonly string[]).includes(unit) || !/^-?\d{1,6}$/.test(amount))
          throw new ExpressionError("an interval is written such as INTERVAL '3' DAY", this.since(from));
        return { kind: 'interval', amount, unit: unit as IntervalUnit, at: this.since(from) };
      }
    }
    if ((word === 'date' || word === 'timestamp') && this.peek().kind === 'text') {
      const text = this.take().text;
      return literal(word === 'date' ? 'date' : 'instant', text);
    }
    if (this.isSign('(')) return this.call(word, token);
    if (reservedWords.has(word))
      throw new ExpressionError(
        `“${token.text}” is a word of SQL; a field of that name is written "${token.text}"`,
        token.at,
      );
    return { kind: 'field', name: token.text, at: token.at };
  }

  private cases(from: number): Expression {
    const of = this.isWord('when') ? null : this.expression();
    const when: { is: Expression; result: Expression }[] = [];
    while (this.word('when')) {
      const is = this.expression();
      this.must('then');
      when.push({ is: of ? this.binary('=', of, is) : is, result: this.expression() });
    }
    if (when.length === 0) throw this.unexpected('WHEN');
    const otherwise = this.word('else') ? this.expression() : null;
    this.must('end');
    return { kind: 'case', when, otherwise, at: this.since(from) };
  }

  private call(word: string, token: Token): Expression {
    const { from } = token.at;
    this.must('(');
    switch (word) {
      case 'cast': {
        const of = this.expression();
        this.must('as');
        const first = this.take().text.toLowerCase();
        const name = first === 'double' && this.word('precision') ? 'double precision' : first;
        const to = castTypes[name as keyof typeof castTypes];
        if (!to)
          throw new ExpressionError(
            `“${name}” is not a type; the types are ${Object.keys(castTypes).join(', ')}`,
            this.since(from),
          );
        this.must(')');
        return { kind: 'cast', of, to, at: this.since(from) };
      }
      case 'extract': {
        const part = this.take();
        const name = part.text.toLowerCase();
        if (!(parts as readonly string[]).includes(name))
          throw new ExpressionError(
            `there is no part “${part.text}”; there are ${parts.join(', ')}`,
            part.at,
          );
        this.must('from');
        const of = this.expression();
        this.must(')');
        return { kind: 'extract', part: name as Part, of, at: this.since(from) };
      }
      case 'position': {
        const find = this.sum();
        this.must('in');
        const inside = this.sum();
        this.must(')');
        return { kind: 'call', name: 'position', args: [find, inside], at: this.since(from) };
      }
      case 'substring': {
        const args = [this.expression()];
        if (this.word('from')) {
          args.push(this.expression());
          if (this.word('for')) args.push(this.expression());
        } else while (this.sign(',')) args.push(this.expression());
        this.must(')');
        return { kind: 'call', name: 'substring', args, at: this.since(from) };
      }
    }
    const args = this.sign(')') ? [] : this.list();
    return { kind: 'call', name: word, args, at: this.since(from) };
  }
}
