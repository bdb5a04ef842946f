import type { RecordCardsBody } from '#core/dashboard/pane/kinds/record-cards/kind.ts';
import type { RecordCardsPane } from '#core/dashboard/pane/kinds/record-cards/schema.ts';
import { laterView } from '../later-view.tsx';
import type { PaneLook } from '../view.ts';

export const recordCards: PaneLook<RecordCardsPane, RecordCardsBody> = {
  View: laterView('record-cards', async () => (await import('./record-cards-view.tsx')).RecordCardsView),
  hasTwin: false,
  fills: 'some',
};
