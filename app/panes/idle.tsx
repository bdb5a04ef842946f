import { Quiet } from '../ui/message.tsx';
import type { PaneActions } from './view.ts';

/** The actions of a pane in which nothing is picked, opened or changed. */
export const idle: PaneActions = {
  pick: () => undefined,
  open: () => undefined,
  hrefOf: () => '#',
  look: () => undefined,
  loosen: () => undefined,
  act: () => undefined,
  paste: () => undefined,
  change: async () => null,
  form: () => <Quiet>What it asks for stands here, for those who may change records.</Quiet>,
};
