import { type ComponentType, lazy, Suspense } from 'react';
import { scriptOf } from '../ui/later.tsx';

/* Views whose scripts come only with a page that shows them. */

const scripts = new Map<string, () => Promise<unknown>>();

const isIn = (page: Document, kind: string): boolean => page.querySelector(`[data-kind="${kind}"]`) !== null;

const Nothing = () => null;

/** The view of a kind of pane, whose script comes with the first pane of it. */
export function laterView<Props extends object>(
  kind: string,
  load: () => Promise<ComponentType<Props>>,
): ComponentType<Props> {
  const script = scriptOf(load);
  const Awaited = lazy(async () => {
    await script.fetch();
    return { default: script.component() ?? Nothing };
  });
  /** One or the other for as long as the page lives, so that nothing is drawn a second time when the script has come. */
  let View: ComponentType<Props> | null = null;
  scripts.set(kind, script.fetch);
  // It is on its way while the rest of the page's scripts still are.
  if (typeof document !== 'undefined' && isIn(document, kind)) void script.fetch().catch(() => undefined);
  return (props) => {
    View ??= script.component() ?? Awaited;
    return (
      <Suspense>
        <View {...props} />
      </Suspense>
    );
  };
}

/**
 * Fetches the scripts of all panes in a page. Before the page is taken over from the server, so that nothing which stands in it goes
 * and comes again because something else on the page changes meanwhile. One that does not come fails in its pane.
 */
export async function fetchViewsOf(page: Document): Promise<void> {
  const wanted = [...scripts].filter(([kind]) => isIn(page, kind));
  await Promise.allSettled(wanted.map(([, fetch]) => fetch()));
}
