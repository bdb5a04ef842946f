import { z } from 'zod';

/** Where the services of the demo are, and what they ask of those who come; the start command makes it up once. */
export const StandInAccess = z.object({
  port: z.int().min(0).max(65535),
  tideKey: z.string().min(16),
  storesPassword: z.string().min(16),
  clientSecret: z.string().min(16),
  intakeKey: z.string().min(16),
  /** Where mail is taken in; absent: nowhere. */
  mailPort: z.int().min(0).max(65535).optional(),
  /** What we show where the staff sign in; absent: they do not. */
  identitySecret: z.string().min(16).optional(),
  /** The folder that the log writers write in. */
  logs: z.string().min(1),
});
export type StandInAccess = z.infer<typeof StandInAccess>;

export const storesUser = 'stores-reader';
/** Who may change records of the stores, with the same password. */
export const storesChanger = 'stores-office';
export const passageClient = 'slate';
/** The client that may change passages, with the same secret. */
export const passageChanger = 'slate-desk';
/** What we are called where the staff sign in. */
export const identityClient = 'slate-glass';
export const tideCallsADay = 2000;
