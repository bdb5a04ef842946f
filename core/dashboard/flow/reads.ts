import { focusText } from '#core/dashboard/scope/address.ts';
import { pathText, type Scope } from '#core/dashboard/scope/state.ts';
import { testToTexts } from '#core/dashboard/scope/test-text.ts';

/** What of a scope a pane reads. Plain data, so that the page itself can tell which panes a change touches. */
export interface Reads {
  /** The data sets that it shows something of. */
  readonly dataSets: readonly string[];
  /** It shows what is picked, whatever the scope. */
  readonly followsPicks: boolean;
  readonly clauses: readonly string[];
  /** Paths whose own tests reach the pane. */
  readonly own: readonly string[];
  /** Paths whose picks narrow it; with the unit, where a pick of that unit only marks it. */
  readonly focus: readonly string[];
  readonly marksOnly: readonly string[];
  /** Paths whose picks it only shows, and is not narrowed by. */
  readonly marks: readonly string[];
  /** It has a period of its own, so that those of readers are none of its. */
  readonly ownTime: readonly string[];
  /** The pane whose view it has: its own, or that of the list that it is in step with. */
  readonly viewedAs: string;
  /** The parts of its view that change nothing of what it is asked. */
  readonly shownOnly: readonly string[];
}

/**
 * What of a scope does not narrow a pane though it narrows others: names of clauses, indices of the reader's own groups and of
 * picks. A pane that follows picks shows the record that it is about, whatever the scope; what a pane has a period of its own for is none of these.
 */
export function notNarrowedBy(
  reads: Reads,
  { clauses, own, focus }: Scope,
  set: readonly string[],
): { clauses: string[]; own: number[]; focus: number[] } {
  const isOwn = (path: string): boolean => reads.ownTime.includes(path);
  return {
    clauses: set.filter((name) => clauses[name] !== null && !reads.clauses.includes(name) && !isOwn(name)),
    own: own.flatMap((group, index) =>
      group.flat().every((test) => reads.own.includes(pathText(test)) || isOwn(pathText(test)))
        ? []
        : [index],
    ),
    focus: focus.flatMap((each, index) => {
      const path = pathText(each);
      const isReached =
        reads.focus.includes(path) ||
        reads.marks.includes(path) ||
        reads.marksOnly.includes(`${path}@${each.unit ?? ''}`) ||
        isOwn(path);
      return isReached ? [] : [index];
    }),
  };
}

/** A text that is the same for two scopes exactly when the pane would be asked the same. */
export function paneKey(pane: string, reads: Reads, scope: Scope): string {
  const clauses = reads.clauses.map((name) => {
    const test = scope.clauses[name];
    return test === undefined ? null : testToTexts(test);
  });
  const own = scope.own.filter((group) => group.flat().every((test) => reads.own.includes(pathText(test))));
  const focus = scope.focus.filter(
    (each) =>
      reads.focus.includes(pathText(each)) &&
      !reads.marksOnly.includes(`${pathText(each)}@${each.unit ?? ''}`),
  );
  const view = Object.entries(scope.views[reads.viewedAs] ?? {})
    .filter(([part]) => !reads.shownOnly.includes(part))
    .sort(([a], [b]) => (a < b ? -1 : 1));
  return JSON.stringify([pane, clauses, own, focus.map(focusText), view]);
}
