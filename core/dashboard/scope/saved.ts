import { scopeParams } from './address.ts';

/* Scopes that have a name. */

export const mostSavedScopes = 100;

/** An address of a page as a saved scope has it: without what is drilled into, and without pages of lists, which go by the hour. */
export function savedAddress(search: string): string {
  const params = scopeParams(search);
  for (const name of [...params.keys()]) if (name.endsWith('.page')) params.delete(name);
  return `?${params.toString()}`;
}

export interface SavedScope {
  readonly id: string;
  readonly name: string;
  readonly search: string;
  readonly isForAll: boolean;
  /** The dashboard opens with it for the person who asks. */
  readonly opens: boolean;
}

/** The saved scopes of a dashboard, and whether the person may offer some to everybody. */
export interface ScopesAnswer {
  readonly scopes: readonly SavedScope[];
  readonly mayOffer: boolean;
  /** What was asked could not be done. */
  readonly problem?: string;
}
