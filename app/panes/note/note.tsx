import type { NoteBody } from '#core/dashboard/pane/kinds/note/kind.ts';
import type { NotePane } from '#core/dashboard/pane/kinds/note/schema.ts';
import { laterView } from '../later-view.tsx';
import type { PaneLook } from '../view.ts';

export const note: PaneLook<NotePane, NoteBody> = {
  View: laterView('note', async () => (await import('./note-view.tsx')).NoteView),
  hasTwin: false,
  fills: 'some',
};
