import { sameJson } from './compare.ts';
import { settled } from './pane/arrange.ts';
import type { Dashboard } from './schema.ts';

/* What two people made of one draft, brought together. Pure. */

/** What one person did to a thing and what another did, from the same start; undefined where both did something else to it. */
function merged<T>(base: T, mine: T, theirs: T): T | undefined {
  if (sameJson(mine, base) || sameJson(mine, theirs)) return theirs;
  return sameJson(theirs, base) ? mine : undefined;
}

/**
 * Things that are told apart by a name, each as whoever changed it has it, in the order of theirs with what was added here behind; null
 * where both changed the same, or one removed what the other changed. `bring` brings together what both changed.
 */
function mergeNamed<T>(
  {
    base,
    mine,
    theirs,
  }: { readonly base: readonly T[]; readonly mine: readonly T[]; readonly theirs: readonly T[] },
  nameOf: (thing: T) => string,
  bring: (base: T, mine: T, theirs: T) => T | undefined = merged,
): T[] | null {
  const by = (things: readonly T[]): Map<string, T> => new Map(things.map((thing) => [nameOf(thing), thing]));
  const [was, own, other] = [by(base), by(mine), by(theirs)];
  const names = [...new Set([...other.keys(), ...own.keys()])];
  const kept: T[] = [];
  for (const name of names) {
    const [before, here, there] = [was.get(name), own.get(name), other.get(name)];
    if (here !== undefined && there !== undefined) {
      const one =
        before === undefined ? (sameJson(here, there) ? there : undefined) : bring(before, here, there);
      if (one === undefined) return null;
      kept.push(one);
      continue;
    }
    const left = here ?? there;
    if (left === undefined) continue;
    // It was added by one of them, or removed by one and left as it was by the other.
    if (before === undefined) kept.push(left);
    else if (!sameJson(left, before)) return null;
  }
  return kept;
}

type Pane = Dashboard['panes'][number];

/** A pane that one person moved and another gave another brief is both. */
function mergePane(base: Pane, mine: Pane, theirs: Pane): Pane | undefined {
  const place = merged(base.place, mine.place, theirs.place);
  const there = { ...theirs, place: base.place };
  const brief = merged<Pane>({ ...base }, { ...mine, place: base.place }, there);
  return place && brief && { ...brief, place };
}

/**
 * A draft with what two people did to it from the same start, where they did it to different parts: its title, each reader filter, each
 * pane's brief and each pane's place. Null where both changed one of these in different ways. Nothing stands on anything else afterwards.
 */
export function mergeDashboards(base: Dashboard, mine: Dashboard, theirs: Dashboard): Dashboard | null {
  const title = merged(base.title, mine.title, theirs.title);
  const scope = mergeNamed({ base: base.scope, mine: mine.scope, theirs: theirs.scope }, ({ name }) => name);
  const panes = mergeNamed(
    { base: base.panes, mine: mine.panes, theirs: theirs.panes },
    ({ id }) => id,
    mergePane,
  );
  if (title === undefined || !scope || !panes) return null;
  return { ...theirs, title, scope, panes: settled(panes) };
}
