import { z } from 'zod';

/** Log files under one of the folders that an administrator has listed. */
export const LogsConnection = z.object({ kind: z.literal('logs'), folder: z.string().min(1).max(2000) });
export type LogsConnection = z.infer<typeof LogsConnection>;
