import { isUnset } from '#core/ask/condition/resolve.ts';
import { labelOf } from '#core/value/field/value.ts';
import { listWords } from '#core/words/condition.ts';
import { clauseSubject } from '../clauses.ts';
import { type Context, dataSetOf, testOf } from '../context.ts';
import { notNarrowedBy, type Reads } from '../reads.ts';
import { focusWords } from './scope.ts';

type Named = Pick<Context, 'dashboard' | 'dataSets' | 'scope' | 'clock' | 'picked'>;

/** What a reader has chosen that cannot narrow a pane, as "not narrowed by route or cause"; empty where all of it does. */
export function notNarrowedWords(reads: Reads, context: Named): string {
  const { dashboard, dataSets, scope } = context;
  const set = dashboard.scope.filter((clause) => {
    const test = testOf(clause, scope);
    return test !== null && !isUnset(test);
  });
  const left = notNarrowedBy(
    reads,
    scope,
    set.map(({ name }) => name),
  );
  const field = (
    of: { fields: readonly Parameters<typeof labelOf>[0][] } | null | undefined,
    name: string,
  ) => {
    const found = of?.fields.find((each) => each.name === name);
    return (found ? labelOf(found) : name).toLowerCase();
  };
  const names = [
    ...set
      .filter(({ name }) => left.clauses.includes(name))
      .map((clause) => {
        const subject = clauseSubject(clause, dataSets.get(clause.dataSet));
        return subject ? labelOf(subject).toLowerCase() : clause.many;
      }),
    ...left.own.flatMap((index) =>
      (scope.own[index] ?? []).flat().map((own) => field(dataSetOf(own.dataSet, context), own.field)),
    ),
    ...left.focus.flatMap((index) => {
      const focus = scope.focus[index];
      return focus ? [focusWords(focus, context)] : [];
    }),
  ];
  return names.length === 0 ? '' : `not narrowed by ${listWords([...new Set(names)], 'or')}`;
}
