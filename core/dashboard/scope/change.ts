import type { Test } from '#core/ask/condition/schema.ts';
import { type Focus, type OwnTest, pathText, type Scope, type TableView, type Vocabulary } from './state.ts';

/* Every change a reader can make to a scope. Each gives a new scope; none touches the old one. */

/** Narrowing changes which records there are, so every table goes back to its first page; but for the one that stays. */
const fromFirstPage = (tables: Scope['tables'], staying?: string): Scope['tables'] =>
  Object.fromEntries(
    Object.entries(tables).map(([pane, view]) => [
      pane,
      pane === staying ? view : { ...view, page: undefined },
    ]),
  );

/** Sets a clause; null takes it off; undefined gives it back its initial test. */
export function withClause(scope: Scope, name: string, test: Test | null | undefined): Scope {
  const { [name]: _, ...others } = scope.clauses;
  const clauses = test === undefined ? others : { ...others, [name]: test };
  return { ...scope, clauses, tables: fromFirstPage(scope.tables) };
}

export function withOwn(scope: Scope, own: readonly (readonly OwnTest[])[]): Scope {
  return { ...scope, own: own.filter((group) => group.length > 0), tables: fromFirstPage(scope.tables) };
}

export const isPicked = (scope: Scope, focus: Focus): boolean =>
  scope.focus.some(
    (each) => pathText(each) === pathText(focus) && each.unit === focus.unit && each.value === focus.value,
  );

/**
 * Picks a record, category or period, or takes the pick back when it stood already. Another pick of the same field goes,
 * and so do picks among records that follow it: the incident of another sailing is no longer what is looked at. `from` is
 * the table it was picked in, which only marks it and stays on its page.
 */
export function withPick(scope: Scope, focus: Focus, vocabulary: Vocabulary, from?: string): Scope {
  const path = pathText(focus);
  const stays = (each: Focus): boolean =>
    pathText(each) !== path && !(vocabulary.dataSets[each.dataSet]?.follows.includes(path) ?? false);
  const others = scope.focus.filter(stays);
  const next = isPicked(scope, focus) ? others : [...others, focus];
  return { ...scope, focus: next, tables: fromFirstPage(scope.tables, from) };
}

/** Takes back the latest pick. */
export function withoutLatestPick(scope: Scope): Scope {
  return { ...scope, focus: scope.focus.slice(0, -1), tables: fromFirstPage(scope.tables) };
}

/** An order after the header of a field was chosen: by it, or the other way round; with `add` as well as by what there was. */
export function sortedBy(
  order: NonNullable<TableView['order']>,
  field: string,
  add: boolean,
): NonNullable<TableView['order']> {
  const now = order.find(({ by }) => by === field);
  const next = { by: field, descending: now ? !now.descending : false };
  return add ? [...order.filter(({ by }) => by !== field), next] : [next];
}

export function withTable(scope: Scope, pane: string, view: TableView): Scope {
  return { ...scope, tables: { ...scope.tables, [pane]: { ...scope.tables[pane], ...view } } };
}
