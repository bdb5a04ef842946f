import { z } from 'zod';
import { savedAddress } from './saved.ts';

/** The address of what a page shows, from the question mark on. */
export const ScopeAddress = z
  .string()
  .max(8000)
  .refine((text) => text === '' || text.startsWith('?'), 'an address of a scope begins with a question mark')
  .transform(savedAddress);

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
