import { useMemo } from 'react';
import { useLocation } from 'react-router';
import { setEdition } from '#core/dashboard/edition.ts';
import { viewedAs } from '#core/dashboard/pane/in-step.ts';
import type { PaneBody } from '#core/dashboard/pane/kinds.ts';
import type { Pane } from '#core/dashboard/pane/schema.ts';
import { isPicked, withClause, withPick, withView } from '#core/dashboard/scope/change.ts';
import type { Focus } from '#core/dashboard/scope/state.ts';
import type { DrillTarget, PaneActions, PaneViewProps, Part } from '../panes/view.ts';
import { useDesk } from './desk-context.ts';
import type { Drill } from './drill-address.ts';

/** What a pane on a desk is given beside what it shows: how it is looked at, and what can be done in it. */
export function usePane(
  pane: Pane,
): Omit<PaneViewProps<Pane, PaneBody>, 'pane' | 'body' | 'asTable' | 'inRecord'> {
  const desk = useDesk();
  const { search } = useLocation();
  const { view, context, clock } = desk;
  const focusOf = (part: Part): Focus => ({ ...part, dataSet: desk.shortName(part.dataSet) });
  const actions = useMemo(() => actionsOf(pane, desk), [pane, desk]);
  return {
    clock,
    view: context.scope.views[viewedAs(pane)] ?? {},
    recordOf: (dataSet) => context.dataSets.get(dataSet) ?? {},
    isPicked: (part) => isPicked(context.scope, focusOf(part)),
    offers: view.offers[pane.id] ?? null,
    actions,
    fileOf: (format) => {
      const params = new URLSearchParams(search);
      params.set('_pane', pane.id);
      params.set('_as', format);
      setEdition(params, view.edition);
      return `/view/${view.id}/export?${params}`;
    },
  };
}

function actionsOf(
  pane: Pane,
  { view, setScope, open, hrefOf, shortName, act, paste, form, change }: ReturnType<typeof useDesk>,
): PaneActions {
  const { id } = pane;
  const drillOf = (opened: DrillTarget): Drill => {
    if (opened.kind === 'record') return { ...opened, pane: id };
    const { kind, title, ...cell } = opened;
    return { kind, title, cell: { pane: id, ...cell } };
  };
  return {
    pick: (parts) =>
      setScope((now) => {
        const focuses = parts.map((part): Focus => ({ ...part, dataSet: shortName(part.dataSet) }));
        // Where only some of them are picked, the others are added and those stay.
        const isBack = focuses.every((each) => isPicked(now, each));
        return focuses.reduce(
          (scope, each) =>
            isBack || !isPicked(scope, each) ? withPick(scope, each, view.vocabulary, id) : scope,
          now,
        );
      }),
    open: (opened) => open(drillOf(opened)),
    hrefOf: (opened) => hrefOf(drillOf(opened)),
    look: (parts) => setScope((now) => withView(now, viewedAs(pane), parts)),
    act: (action, keys, onDone) => act({ pane: id, action, keys, ...(onDone ? { onDone } : {}) }),
    paste: (start) => {
      const { actions = [], inPlace = [] } = view.offers[id] ?? {};
      const mayAdd = actions.some(({ way }) => way === 'insert');
      paste({ pane: id, start, mayAdd, mayChange: inPlace.length > 0 });
    },
    change: (key, field, saw, value) => change({ pane: id, key, field, saw, value }),
    form: (action, record) => form(id, action, record),
    loosen: (clause) => setScope((now) => withClause(now, clause, null)),
  };
}
