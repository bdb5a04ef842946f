import type { Request } from '#core/dataset/schema.ts';
import { http } from './http/screen.tsx';
import { log } from './log/screen.tsx';
import type { RequestScreen } from './screen.ts';
import { sql } from './sql/screen.tsx';
import { table } from './table/screen.tsx';

const screens: { readonly [K in Request['kind']]: RequestScreen<Extract<Request, { kind: K }>> } = {
  table,
  sql,
  http,
  log,
  intake: {},
  of: { mayTry: () => false, isKnown: true },
  upload: { isKnown: true },
};

/** How a request is described on screen. */
export const screenOf = ({ kind }: Request): RequestScreen<Request> =>
  screens[kind] as unknown as RequestScreen<Request>;
