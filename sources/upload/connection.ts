import { z } from 'zod';

export const UploadConnection = z.object({ kind: z.literal('upload') });
export type UploadConnection = z.infer<typeof UploadConnection>;

export const uploadConnection: UploadConnection = { kind: 'upload' };
