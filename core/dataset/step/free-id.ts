import type { Step } from './schema.ts';

/** An id that none of the steps has. */
export function freeStepId(steps: readonly Step[]): string {
  let n = steps.length + 1;
  while (steps.some(({ id }) => id === `step-${n}`)) n += 1;
  return `step-${n}`;
}
