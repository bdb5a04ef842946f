import type { Part } from '#core/ask/expression/parse.ts';
import { type Sql, sql } from './fragment.ts';

const words: Record<Exclude<Part, 'epoch'>, Sql> = {
  year: sql`year`,
  quarter: sql`quarter`,
  month: sql`month`,
  week: sql`week`,
  day: sql`day`,
  isodow: sql`isodow`,
  hour: sql`hour`,
  minute: sql`minute`,
  second: sql`second`,
};

/** The name of a part of a date as SQL has it. */
export const literalWord = (part: Exclude<Part, 'epoch'>): Sql => words[part];
