import type { Dashboard } from './schema.ts';

/** As many records of a list stand on paper, where nobody can go to its next page. */
export const mostOnPaper = 1_000;

/** A dashboard whose lists show all of their records at once, as far as paper has room for them. */
export const withWholeLists = (dashboard: Dashboard): Dashboard => ({
  ...dashboard,
  panes: dashboard.panes.map((pane) => ('pageSize' in pane ? { ...pane, pageSize: mostOnPaper } : pane)),
});
