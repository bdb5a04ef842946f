import { z } from 'zod';

export const FollowUpsConnection = z.object({ kind: z.literal('follow-ups') });
export type FollowUpsConnection = z.infer<typeof FollowUpsConnection>;

export const followUpsConnection: FollowUpsConnection = { kind: 'follow-ups' };
