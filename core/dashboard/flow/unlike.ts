import { sameJson } from '#core/dashboard/compare.ts';
import type { Pane } from '#core/dashboard/pane/schema.ts';
import { ask } from './ask.ts';
import type { Context } from './context.ts';

/** A pane in two editions of a dashboard; null in the one that does not have it. */
export interface UnlikePane {
  readonly id: string;
  readonly before: Pane | null;
  readonly after: Pane | null;
}

/** What is asked for a pane, as plain data; what cannot be asked is told apart by why. */
function questionOf(pane: Pane, context: Context): unknown {
  try {
    const question = ask(pane, context);
    return question.state === 'asking' ? question.first : question;
  } catch (thrown) {
    return String(thrown);
  }
}

/**
 * The panes that two editions of a dashboard do not show alike: those of one alone, and those whose brief is another or comes to another
 * question, wherever they stand. In the order of the later edition, those that went last.
 */
export function unlikePanes(before: Context, after: Context): UnlikePane[] {
  const was = new Map(before.dashboard.panes.map((pane) => [pane.id, pane]));
  const found = after.dashboard.panes.flatMap((pane): UnlikePane[] => {
    const old = was.get(pane.id) ?? null;
    was.delete(pane.id);
    const isAlike =
      old !== null &&
      sameJson({ ...old, place: null }, { ...pane, place: null }) &&
      sameJson(questionOf(old, before), questionOf(pane, after));
    return isAlike ? [] : [{ id: pane.id, before: old, after: pane }];
  });
  return [...found, ...[...was.values()].map((pane) => ({ id: pane.id, before: pane, after: null }))];
}
