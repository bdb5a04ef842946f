import { z } from 'zod';

/* Scopes that have a name. */

export const mostSavedScopes = 100;

/** The address of what a page shows, from the question mark on: without what is drilled into, and without pages, which go by the hour. */
export const ScopeAddress = z
  .string()
  .max(8000)
  .refine((text) => text === '' || text.startsWith('?'), 'an address of a scope begins with a question mark')
  .transform((text) => {
    const params = new URLSearchParams(text);
    for (const name of [...params.keys()])
      if (name === '_drill' || name.endsWith('.page')) params.delete(name);
    return `?${params.toString()}`;
  });

/** What is asked of the saved scopes of a dashboard. `forAll`: offered to everybody who reads it. */
export const ScopeRequest = z.discriminatedUnion('ask', [
  z.object({
    ask: z.literal('save'),
    name: z.string().trim().min(1, 'It needs a name.').max(200),
    search: ScopeAddress,
    forAll: z.coerce.boolean().optional(),
  }),
  z.object({ ask: z.literal('remove'), id: z.uuid() }),
  /** Without an id: as the dashboard begins. */
  z.object({ ask: z.literal('open with'), id: z.uuid().optional() }),
]);
export type ScopeRequest = z.infer<typeof ScopeRequest>;

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
