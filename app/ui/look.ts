import { useRouteLoaderData } from 'react-router';
import type { Look } from '#server/cookies.ts';
import { here } from './here.ts';

/** How this browser wants pages to look. */
export const useLook = (): Look =>
  useRouteLoaderData<Look>('root') ?? { theme: 'system', rows: 'roomy', numbers: 'point' };

/** Where what is chosen of it is sent. */
export const lookPath = '/look';

/** Whether what was sent to an address was such a choice; the framework says the address with the path that all are under. */
export const choosesLook = (formAction: string | undefined): boolean => formAction === here(lookPath);
