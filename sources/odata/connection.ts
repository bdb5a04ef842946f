import { z } from 'zod';
import { HttpConnection } from '../http/connection.ts';

export const ODataConnection = HttpConnection.extend({ kind: z.literal('odata') });
export type ODataConnection = z.infer<typeof ODataConnection>;
