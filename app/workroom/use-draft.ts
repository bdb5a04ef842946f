import { useCallback, useEffect, useRef, useState } from 'react';
import type { Dashboard } from '#core/dashboard/schema.ts';
import type { DashboardView } from '#server/panes/shown.ts';
import { useSave } from './use-save.ts';

const mostPast = 50;
const keyOf = (id: string): string => `slate-undo-${id}`;

/** What a draft was before each change made in this tab, the latest last; there on every page of the draft. */
function readPast(id: string): readonly Dashboard[] {
  try {
    return JSON.parse(sessionStorage.getItem(keyOf(id)) ?? '[]') as Dashboard[];
  } catch {
    return [];
  }
}

function writePast(id: string, past: readonly Dashboard[]): void {
  try {
    sessionStorage.setItem(keyOf(id), JSON.stringify(past));
  } catch {
    // A browser without room for it can still be worked in; undo then ends with the page.
  }
}

/** What a draft was before something else than its own page changed it. */
export const rememberDraft = (id: string, before: Dashboard): void =>
  writePast(id, [...readPast(id), before].slice(-mostPast));

/** A dashboard's draft: each change is saved at once, in turn, and can be undone, also on another page of the same draft. */
export function useDraft(view: DashboardView, revision: number, onSaved?: () => void) {
  const { id, dashboard: stored } = view;
  const saving = useSave(`/workroom/dashboards/${id}/save`, revision, onSaved);
  const [past, setPast] = useState<readonly Dashboard[]>([]);
  useEffect(() => setPast(readPast(id)), [id]);
  // What was sent last counts until the page has it from the server.
  const latest = useRef(stored);
  const isHeld =
    saving.crossed !== null || saving.refused.length > 0 || saving.signedOut || saving.unsent !== null;
  if (!saving.isUnderWay() && !isHeld) latest.current = stored;
  const { save } = saving;
  const remember = useCallback(
    (next: readonly Dashboard[]) => {
      setPast(next);
      writePast(id, next);
    },
    [id],
  );
  const send = useCallback(
    (draft: Dashboard) => {
      const base = latest.current;
      latest.current = draft;
      save({ draft, base });
    },
    [save],
  );
  const change = useCallback(
    (draft: Dashboard) => {
      remember([...readPast(id), latest.current].slice(-mostPast));
      send(draft);
    },
    [id, remember, send],
  );
  const undo = (): void => {
    const before = past.at(-1);
    if (!before) return;
    remember(past.slice(0, -1));
    send(before);
  };
  return { saving, change, undo: past.length > 0 ? undo : null };
}
