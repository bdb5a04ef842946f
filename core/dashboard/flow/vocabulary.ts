import { kindOf } from '#core/dashboard/pane/kinds.ts';
import { pathText, type Vocabulary } from '#core/dashboard/scope/state.ts';
import { clauseType, shortNames } from './context.ts';
import { counterpart } from './counterpart.ts';
import { offeredFields } from './offered.ts';
import { once } from './once.ts';

/** What an address may speak of on this dashboard: what its panes show and its clauses offer, and nothing else. */
export const vocabularyOf = once(({ dashboard, dataSets }): Vocabulary => {
  const short = shortNames(dashboard, dataSets);
  const known = [...short].flatMap(([id, name]) => {
    const dataSet = dataSets.get(id);
    return dataSet ? [{ id, name, dataSet }] : [];
  });
  const byName = new Map(
    known.map(({ id, name, dataSet }) => [name, new Set(offeredFields(dashboard, id, dataSet))]),
  );
  const offered = (name: string): ReadonlySet<string> => byName.get(name) ?? new Set();
  return {
    clauses: dashboard.scope.map((clause) => ({ name: clause.name, type: clauseType(clause, dataSets) })),
    dataSets: Object.fromEntries(
      known.map(({ name, dataSet }) => [
        name,
        {
          fields: dataSet.fields
            .filter((field) => offered(name).has(field.name))
            .map((field) => ({ name: field.name, type: field.type })),
          ...(dataSet.key === undefined ? {} : { key: dataSet.key }),
          follows: known.flatMap((other) =>
            other.dataSet === dataSet
              ? []
              : other.dataSet.fields
                  .filter((field) => {
                    const here = counterpart(field.name, other.dataSet, dataSet);
                    return field.name === other.dataSet.key && here !== null && here !== dataSet.key;
                  })
                  .map((field) => pathText({ dataSet: other.name, field: field.name })),
          ),
        },
      ]),
    ),
    views: Object.fromEntries(
      dashboard.panes.flatMap((pane) => {
        const parts = kindOf(pane).view?.(pane);
        return parts ? [[pane.id, parts]] : [];
      }),
    ),
  };
});
