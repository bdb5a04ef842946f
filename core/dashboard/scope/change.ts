import type { Test } from '#core/ask/condition/schema.ts';
import { type PaneView, withParts } from '#core/dashboard/pane/view.ts';
import { type Focus, type OwnGroup, type OwnTest, pathText, type Scope, type Vocabulary } from './state.ts';

/* Every change a reader can make to a scope. Each gives a new scope; none touches the old one. */

/** Narrowing changes which records there are, so every list goes back to its first page; except for the one that stays. */
const fromFirstPage = (views: Scope['views'], staying?: string): Scope['views'] =>
  Object.fromEntries(
    Object.entries(views).map(([pane, view]) => [
      pane,
      pane === staying ? view : withParts(view, { page: [] }),
    ]),
  );

/** Sets a clause; null takes it off; undefined gives it back its initial test. */
export function withClause(scope: Scope, name: string, test: Test | null | undefined): Scope {
  const { [name]: _, ...others } = scope.clauses;
  const clauses = test === undefined ? others : { ...others, [name]: test };
  return { ...scope, clauses, views: fromFirstPage(scope.views) };
}

/** Gives the place of one of the reader's own groups another one; a place behind the last adds it, an empty group takes it off. */
export function withOwn(scope: Scope, at: number, group: OwnGroup): Scope {
  const own = [...scope.own.slice(0, at), group, ...scope.own.slice(at + 1)];
  return { ...scope, own: own.filter((each) => each.length > 0), views: fromFirstPage(scope.views) };
}

/** A group with another test, which must hold beside those of its last part, or instead of all others. */
export const withTest = (group: OwnGroup, joined: 'and' | 'or', test: OwnTest): OwnGroup =>
  joined === 'or' || group.length === 0
    ? [...group, [test]]
    : [...group.slice(0, -1), [...(group.at(-1) ?? []), test]];

/** A group without one of its tests. */
export const withoutTest = (group: OwnGroup, test: OwnTest): OwnGroup =>
  group.map((part) => part.filter((each) => each !== test)).filter((part) => part.length > 0);

export const isPicked = (scope: Scope, focus: Focus): boolean =>
  scope.focus.some(
    (each) => pathText(each) === pathText(focus) && each.unit === focus.unit && each.value === focus.value,
  );

/**
 * Picks a record, category or period, or takes the pick back when it stood already. Another pick of the same field goes,
 * and so do picks among records that follow it: the incident of another sailing is no longer what is looked at. `from` is
 * the list it was picked in, which only marks it and stays on its page.
 */
export function withPick(scope: Scope, focus: Focus, vocabulary: Vocabulary, from?: string): Scope {
  const path = pathText(focus);
  const stays = (each: Focus): boolean =>
    pathText(each) !== path && !(vocabulary.dataSets[each.dataSet]?.follows.includes(path) ?? false);
  const others = scope.focus.filter(stays);
  const next = isPicked(scope, focus) ? others : [...others, focus];
  return { ...scope, focus: next, views: fromFirstPage(scope.views, from) };
}

/** Takes back the latest pick. */
export function withoutLatestPick(scope: Scope): Scope {
  return { ...scope, focus: scope.focus.slice(0, -1), views: fromFirstPage(scope.views) };
}

/** Looks at a pane otherwise: `parts` replace some of its view. */
export const withView = (scope: Scope, pane: string, parts: PaneView): Scope => ({
  ...scope,
  views: { ...scope.views, [pane]: withParts(scope.views[pane] ?? {}, parts) },
});
