import { fieldsOf } from '#core/ask/condition/resolve.ts';
import type { Action } from './change/schema.ts';

/** The fields that an action sets, and those that say which records it is offered for. */
export const actionFields = ({ sets, where }: Action): string[] => [
  ...sets.map(({ field }) => field),
  ...(where ? fieldsOf(where) : []),
];
