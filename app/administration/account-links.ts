import type { MastLink } from '../ui/mast.tsx';

/** The pages that everybody has for themselves. */
export const accountLinks: readonly MastLink[] = [
  { to: '/account', text: 'Signing in' },
  { to: '/account/keys', text: 'Keys for programs' },
];
