import type { Condition } from '#core/ask/condition/schema.ts';
import { keyAndTitle } from '#core/dataset/naming.ts';
import type { DataSet } from '#core/dataset/schema.ts';
import type { Field } from '#core/value/field/field.ts';
import { freeName } from '#core/value/field/free-name.ts';
import { isTemporal, labelOf, meaningOf } from '#core/value/field/value.ts';
import { capital } from '#core/words/capital.ts';
import { pluralOf } from '#core/words/plural.ts';
import { freeClauseName } from './clause-name.ts';
import type { OfferedData, Proposal, ProposalContext } from './pane/kind.ts';
import { kinds } from './pane/kinds.ts';
import type { Pane } from './pane/schema.ts';
import { freePlace } from './pane/suggest.ts';
import { dueNames, suggestionContext } from './pane/suggestion-context.ts';
import type { Clause, Dashboard } from './schema.ts';

/* A first dashboard of a data set: what a reader would look for first, all at once. */

/** What some of the records show of a data set's fields. */
export interface FieldFacts {
  /** How many different values each field was seen to have. */
  readonly different: Readonly<Record<string, number>>;
  /** The latest moment of its main time; ISO 8601. */
  readonly latest: string | null;
}

/** The parts of the page, from the top. */
const parts = ['numbers', 'pictures', 'records', 'related'] as const;

/** A field of more different values than this sorts records into no few kinds. */
const mostOfFew = 40;
const mostClauses = 4;
const mostRelated = 2;
/** Records within the last of these days are looked at by them. */
const recentDays = 28;

const sorts = ({ name, type, format, states }: Field, dataSet: DataSet, facts: FieldFacts): boolean => {
  if (states || type === 'boolean') return true;
  const different = facts.different[name] ?? 0;
  const isPlain = format?.kind !== 'id' && format?.kind !== 'picture' && format?.kind !== 'link';
  return (
    type === 'text' &&
    isPlain &&
    !keyAndTitle(dataSet).includes(name) &&
    different > 1 &&
    different <= mostOfFew
  );
};

/** What is not settled, by the states that the analyst gave a field. */
function openCondition(fields: readonly Field[]): Condition | null {
  const field = fields.find(({ states }) => states?.some(({ tone }) => tone === 'settled'));
  const settled = field?.states?.filter(({ tone }) => tone === 'settled').map(({ value }) => value) ?? [];
  return field ? { field: field.name, test: { op: 'isNot', values: settled } } : null;
}

/** Data sets whose records refer to those of this one. */
function relatedTo(id: string, dataSet: DataSet, offered: readonly OfferedData[]) {
  const key = dataSet.fields.find(({ name }) => name === dataSet.key);
  const meaning = key && meaningOf(key);
  if (meaning === undefined) return [];
  return offered
    .filter(
      (each) =>
        each.id !== id &&
        each.dataSet.fields.some((field) => field.name !== each.dataSet.key && meaningOf(field) === meaning),
    )
    .slice(0, mostRelated)
    .map((data) => ({ data, meaning }));
}

/** A dashboard that shows what matters of a data set, to be ticked off and renamed. */
export function proposeDashboard(
  { id, name, dataSet }: OfferedData,
  {
    offered,
    facts,
    now,
  }: { readonly offered: readonly OfferedData[]; readonly facts: FieldFacts; readonly now: Date },
): Dashboard {
  const plain = suggestionContext({ dataSetId: id, dataSet, offered });
  const categories = plain.visibleFields.filter((field) => sorts(field, dataSet, facts));
  const context: ProposalContext = {
    ...plain,
    ...(categories[0] ? { category: categories[0] } : {}),
    categories,
    open: openCondition(plain.visibleFields),
    due:
      plain.visibleFields.find(
        (field) => isTemporal(field.type) && field !== plain.time && dueNames.test(field.name),
      ) ?? null,
    related: relatedTo(id, dataSet, offered),
  };
  const proposals: Proposal<Pane>[] = Object.values(kinds).flatMap(
    (kind): readonly Proposal<Pane>[] => kind.propose?.(context) ?? [],
  );
  const panes: Pane[] = [];
  for (const part of parts) {
    // Each part of the page begins below the one before.
    const top = Math.max(0, ...panes.map(({ place }) => place.y + place.h));
    const placed: Pane[] = [];
    for (const { pane, size } of proposals.filter((each) => each.part === part)) {
      const { x, y } = freePlace(placed, size);
      const id = freeName(pane.kind, (each) => [...panes, ...placed].some((other) => other.id === each), '-');
      placed.push({ ...pane, id, place: { x, y, ...size } } as Pane);
    }
    panes.push(...placed.map((pane) => ({ ...pane, place: { ...pane.place, y: pane.place.y + top } })));
  }
  return { version: 4, title: capital(name), scope: clausesOf(id, context, facts, now), panes };
}

/** The filters that a reader would reach for: the kinds that records are sorted into, and when. */
function clausesOf(
  dataSet: string,
  { categories, time }: ProposalContext,
  { latest }: FieldFacts,
  now: Date,
): Clause[] {
  const clauses: Clause[] = [];
  for (const { name: field, label } of categories.slice(0, mostClauses - 1)) {
    const many = pluralOf(labelOf({ name: field, ...(label === undefined ? {} : { label }) }).toLowerCase());
    clauses.push({ name: freeClauseName(many, clauses), many, offer: 'values', dataSet, field });
  }
  if (!time) return clauses;
  const isRecent = latest !== null && now.getTime() - Date.parse(latest) < recentDays * 86_400_000;
  clauses.push({
    name: freeClauseName(labelOf(time), clauses),
    many: 'dates',
    lead: labelOf(time).toLowerCase(),
    offer: 'dates',
    dataSet,
    field: time.name,
    ...(isRecent
      ? { initially: { op: 'during', period: { kind: 'last', count: recentDays, unit: 'day' } } }
      : {}),
  });
  return clauses;
}

/** What stays of a proposed dashboard: the panes and clauses that are ticked, under the titles that they were given. */
export const keptOf = (
  proposed: Dashboard,
  {
    panes,
    clauses,
    titles,
  }: { panes: readonly string[]; clauses: readonly string[]; titles: ReadonlyMap<string, string> },
): Dashboard => {
  const kept: Pane[] = [];
  for (const pane of proposed.panes) {
    if (!panes.includes(pane.id)) continue;
    const title = titles.get(pane.id)?.trim() || pane.title;
    kept.push({ ...pane, title, place: freePlace(kept, pane.place) });
  }
  return { ...proposed, panes: kept, scope: proposed.scope.filter(({ name }) => clauses.includes(name)) };
};
