import { lazy, Suspense } from 'react';
import type { CrosstabBody } from '#core/dashboard/pane/kinds/crosstab/kind.ts';
import type { CrosstabPane } from '#core/dashboard/pane/kinds/crosstab/schema.ts';
import type { PaneLook, PaneViewProps } from '../view.ts';

const Loaded = lazy(() => import('./crosstab-view.tsx').then((module) => ({ default: module.CrosstabView })));

/** Its script comes only with a dashboard that has one. */
const CrosstabView = (props: PaneViewProps<CrosstabPane, CrosstabBody>) => (
  <Suspense>
    <Loaded {...props} />
  </Suspense>
);

export const crosstab: PaneLook<CrosstabPane, CrosstabBody> = {
  View: CrosstabView,
  hasTwin: false,
  fills: 'some',
};
