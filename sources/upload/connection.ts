import { z } from 'zod';

export const UploadConnection = z.object({ kind: z.literal('upload') });
export type UploadConnection = z.infer<typeof UploadConnection>;
