import type { PaneBody } from '#core/dashboard/pane/kinds.ts';
import type { Pane } from '#core/dashboard/pane/schema.ts';
import { lookOf } from './looks.ts';
import type { PaneViewProps } from './view.ts';

/** What a pane shows, drawn as its kind looks. */
export function PaneBodyView(props: PaneViewProps<Pane, PaneBody>) {
  const { View } = lookOf(props.pane);
  // While a brief is written, an answer may come to what it was before.
  return props.body.kind === props.pane.kind ? <View {...props} /> : null;
}
