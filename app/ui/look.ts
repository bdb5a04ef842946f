import { useRouteLoaderData } from 'react-router';
import type { Look } from '#server/cookies.ts';

/** How this browser wants pages to look. */
export const useLook = (): Look =>
  useRouteLoaderData<Look>('root') ?? { theme: 'system', rows: 'roomy', numbers: 'point' };
