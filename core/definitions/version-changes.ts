import { sameJson } from '#core/dashboard/compare.ts';
import { briefSentence } from '#core/dashboard/flow/words/brief.ts';
import { clauseWords } from '#core/dashboard/flow/words/scope.ts';
import type { Pane } from '#core/dashboard/pane/schema.ts';
import type { Clause, Dashboard } from '#core/dashboard/schema.ts';
import type { DataSet } from '#core/dataset/schema.ts';
import { labelOf } from '#core/value/field/value.ts';
import type { Clock } from '#core/value/period/period.ts';
import { capital } from '#core/words/capital.ts';
import { conditionWords } from '#core/words/condition.ts';
import { measureWords } from '#core/words/measure.ts';

/* What is otherwise between two versions of a dashboard with its data sets, in sentences that readers of it would use. */

export interface Definitions {
  readonly dashboard: Dashboard;
  readonly dataSets: ReadonlyMap<string, DataSet>;
}

/** Those that came, went, and are in both, by what they are known by. */
function matched<T>(before: readonly T[], after: readonly T[], name: (each: T) => string) {
  const was = new Map(before.map((each) => [name(each), each]));
  const is = new Map(after.map((each) => [name(each), each]));
  return {
    added: after.filter((each) => !was.has(name(each))),
    removed: before.filter((each) => !is.has(name(each))),
    both: after.flatMap((each): [T, T][] => {
      const old = was.get(name(each));
      return old === undefined ? [] : [[old, each]];
    }),
  };
}

const titleOf = (pane: Pane): string => (pane.title === '' ? 'an untitled pane' : `“${pane.title}”`);

function paneChanges(before: Definitions, after: Definitions, clock: Clock): string[] {
  const sentence = (pane: Pane, { dashboard, dataSets }: Definitions): string =>
    briefSentence(pane, { dashboard, dataSets, clock }) ?? '';
  const { added, removed, both } = matched(before.dashboard.panes, after.dashboard.panes, ({ id }) => id);
  return [
    ...added.map((pane) => {
      const brief = sentence(pane, after);
      return `Added ${titleOf(pane)}${brief === '' ? '' : `: ${brief.replace(/\.$/, '')}`}.`;
    }),
    ...removed.map((pane) => `Removed ${titleOf(pane)}.`),
    ...both.flatMap(([old, now]): string[] => {
      if (sameJson(old, now)) return [];
      const changes: string[] = [];
      if (old.title !== now.title) changes.push(`${capital(titleOf(old))} is called ${titleOf(now)} now.`);
      const [was, is] = [sentence(old, before), sentence(now, after)];
      if (was !== is)
        changes.push(
          `${capital(titleOf(now))} says now: ${is.replace(/\.$/, '')}. It said: ${was.replace(/\.$/, '')}.`,
        );
      else if (!sameJson({ ...old, place: null, title: null }, { ...now, place: null, title: null }))
        changes.push(`${capital(titleOf(now))} looks or is written otherwise.`);
      if (changes.length === 0) changes.push(`${capital(titleOf(now))} stands elsewhere.`);
      return changes;
    }),
  ];
}

function clauseChanges(before: Definitions, after: Definitions, clock: Clock): string[] {
  const { added, removed, both } = matched(before.dashboard.scope, after.dashboard.scope, ({ name }) => name);
  const named = (clause: Clause): string => `“${clause.lead ?? clause.many}”`;
  const first = (clause: Clause, { dataSets }: Definitions): string =>
    clauseWords(clause, clause.initially ?? null, dataSets.get(clause.dataSet), clock);
  return [
    ...added.map((clause) => `Readers can narrow by ${named(clause)}, at first ${first(clause, after)}.`),
    ...removed.map((clause) => `Readers can no longer narrow by ${named(clause)}.`),
    ...both.flatMap(([old, now]): string[] => {
      if (sameJson(old, now)) return [];
      const [was, is] = [first(old, before), first(now, after)];
      return [
        was === is
          ? `The reader filter ${named(now)} is otherwise.`
          : `The reader filter ${named(now)} is ${is} at first, and was ${was}.`,
      ];
    }),
  ];
}

/** The parts of a data set of which only is said that they are otherwise. */
const otherParts = [
  ['request', 'are asked of their source in another way'],
  ['steps', 'are shaped in other steps'],
  ['keeping', 'are always kept by another condition'],
  ['changes', 'can be changed in other ways'],
  ['checks', 'are checked otherwise'],
  ['keep', 'are copied and kept otherwise'],
] as const;

function dataSetSentences(old: DataSet, now: DataSet): string[] {
  const many = capital(now.noun.many);
  const measures = matched(old.measures, now.measures, ({ name }) => name);
  const fields = matched(old.fields, now.fields, ({ name }) => name);
  const subsets = matched(old.subsets ?? [], now.subsets ?? [], ({ name }) => name);
  const list = (labels: readonly string[]): string => labels.map((label) => `“${label}”`).join(', ');
  return [
    ...measures.added.map((each) => `Added the measure “${each.label}”: ${measureWords(each, now)}.`),
    ...measures.removed.map((each) => `Removed the measure “${each.label}”.`),
    ...measures.both.flatMap(([was, is]): string[] => {
      const [before, says] = [measureWords(was, old), measureWords(is, now)];
      return before === says ? [] : [`“${is.label}” means ${says} now, and was ${before}.`];
    }),
    ...subsets.both.flatMap(([was, is]): string[] => {
      const [said, says] = [
        conditionWords(was.where, old.fields, 'UTC'),
        conditionWords(is.where, now.fields, 'UTC'),
      ];
      return said === says ? [] : [`“${is.label}” are those where ${says} now, and were where ${said}.`];
    }),
    ...(fields.added.length > 0 ? [`${many} have ${list(fields.added.map(labelOf))} now.`] : []),
    ...(fields.removed.length > 0 ? [`${many} no longer have ${list(fields.removed.map(labelOf))}.`] : []),
    ...otherParts.flatMap(([part, words]) => (sameJson(old[part], now[part]) ? [] : [`${many} ${words}.`])),
  ];
}

/** What is otherwise in `after`, one sentence for each difference; none where readers would get the same. */
export function versionChanges(before: Definitions, after: Definitions, clock: Clock): string[] {
  const data = [...after.dataSets].flatMap(([id, now]) => {
    const old = before.dataSets.get(id);
    return old && !sameJson(old, now) ? dataSetSentences(old, now) : [];
  });
  return [
    ...(before.dashboard.title === after.dashboard.title
      ? []
      : [`The dashboard is called “${after.dashboard.title}” now.`]),
    ...paneChanges(before, after, clock),
    ...clauseChanges(before, after, clock),
    ...data,
  ];
}
