import { useSyncExternalStore } from 'react';

/* What the pages of this window know of news about follow-ups. */

let turn = 0;
const hearers = new Set<() => void>();

function subscribe(hear: () => void): () => void {
  hearers.add(hear);
  return () => hearers.delete(hear);
}

/** What the person has to follow up is otherwise now. */
export function tellOfFollowUps(): void {
  turn += 1;
  for (const hear of hearers) hear();
}

/** How often that has been told since the window was opened. */
export const useFollowUpTurn = (): number =>
  useSyncExternalStore(
    subscribe,
    () => turn,
    () => 0,
  );
