import { fieldsOf } from '#core/ask/condition/resolve.ts';
import type { Check } from './schema.ts';

/** The fields that an expectation is about. */
export function checkFields(expects: Check['expects']): string[] {
  switch (expects.kind) {
    case 'unique':
      return [...expects.fields];
    case 'filled':
    case 'fresh':
      return [expects.field];
    case 'all':
      return fieldsOf(expects.where);
    case 'count':
      return [];
  }
}
