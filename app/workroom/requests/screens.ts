import type { ComponentType } from 'react';
import type { Request } from '#core/dataset/schema.ts';
import { http } from './http/screen.tsx';
import { log } from './log/screen.tsx';
import type { RequestScreen, StartProps } from './screen.ts';
import { sql } from './sql/screen.tsx';
import { table } from './table/screen.tsx';

const screens: { readonly [K in Request['kind']]: RequestScreen<Extract<Request, { kind: K }>> } = {
  table,
  sql,
  http,
  log,
  intake: {},
  of: {
    mayTry: () => false,
    isKnown: true,
    elsewhere: 'They are those of another data set; look at them on the page of the steps.',
  },
  upload: { isKnown: true, isOnlyKept: true },
  'follow-ups': { isKnown: true, isSaidBySource: true },
};

/** What a source that offers these ways of asking can begin with. */
export const startsOf = (requests: readonly Request['kind'][]): ComponentType<StartProps>[] =>
  requests.flatMap((kind) => screens[kind].Start ?? []);

/** How a request is described on screen. */
export const screenOf = ({ kind }: Request): RequestScreen<Request> =>
  screens[kind] as unknown as RequestScreen<Request>;
