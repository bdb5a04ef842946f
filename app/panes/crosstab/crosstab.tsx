import type { CrosstabBody } from '#core/dashboard/pane/kinds/crosstab/kind.ts';
import type { CrosstabPane } from '#core/dashboard/pane/kinds/crosstab/schema.ts';
import { laterView } from '../later-view.tsx';
import type { PaneLook } from '../view.ts';

export const crosstab: PaneLook<CrosstabPane, CrosstabBody> = {
  View: laterView('crosstab', async () => (await import('./crosstab-view.tsx')).CrosstabView),
  hasTwin: false,
  fills: 'some',
};
