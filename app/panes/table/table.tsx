import type { TableBody } from '#core/dashboard/pane/kinds/table/kind.ts';
import type { TablePane } from '#core/dashboard/pane/kinds/table/schema.ts';
import { laterView } from '../later-view.tsx';
import type { PaneLook } from '../view.ts';

export const table: PaneLook<TablePane, TableBody> = {
  View: laterView('table', async () => (await import('./table-view.tsx')).TableView),
  hasTwin: false,
  fills: 'some',
};
