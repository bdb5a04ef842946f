import type { Role, User } from './store/people.ts';

/** What somebody wants to do. */
export type Verb = 'read' | 'act' | 'build' | 'administer';

/**
 * What they want to do it to: a desk, with all that stands on it; `anywhere`, what no desk has to itself (sources, data sets,
 * the workroom), for which a role on any desk counts; the installation; or one's own account, which everybody may look after.
 */
export type Subject = { readonly desk: string } | 'anywhere' | 'installation' | 'oneself';

const granted: Readonly<Record<Role, readonly Verb[]>> = {
  reader: ['read'],
  supervisor: ['read', 'act'],
  analyst: ['read', 'act', 'build'],
};

/** Whether somebody may. Nothing else decides it. */
export function may({ isAdministrator, roles }: User, verb: Verb, subject: Subject): boolean {
  if (isAdministrator || subject === 'oneself') return true;
  if (subject === 'installation') return false;
  const held = subject === 'anywhere' ? Object.values(roles) : [roles[subject.desk]];
  return held.some((role) => role !== undefined && granted[role].includes(verb));
}

/** What somebody is called for their role: on a desk, or by the highest that they have on any. */
export function roleWord({ isAdministrator, roles }: User, desk?: string): string {
  if (isAdministrator) return 'administrator';
  if (desk !== undefined) return roles[desk] ?? 'no role here';
  const held = Object.values(roles);
  return (['analyst', 'supervisor', 'reader'] as const).find((role) => held.includes(role)) ?? 'no role yet';
}

/** Why somebody may change no records from a desk; null where they may. */
export const actRefusal = (user: User, desk: string): string | null =>
  may(user, 'act', { desk })
    ? null
    : 'Only supervisors, analysts and administrators change records on this desk.';
