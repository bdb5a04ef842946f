import type { TraceBody } from '#core/dashboard/pane/kinds/trace/kind.ts';
import type { TracePane } from '#core/dashboard/pane/kinds/trace/schema.ts';
import { laterView } from '../later-view.tsx';
import type { PaneLook } from '../view.ts';

export const trace: PaneLook<TracePane, TraceBody> = {
  View: laterView('trace', async () => (await import('./trace-view.tsx')).TraceView),
  hasTwin: false,
  fills: 'some',
};
