import type { ShouldRevalidateFunctionArgs } from 'react-router';

/** How many wait for their page to be loaded again. */
let waiting = 0;

/**
 * Does what has the page loaded again. A change of scope that comes before it is takes its place, so the page is loaded with
 * that; else it would show for good what was so before.
 */
export async function untilLoaded(load: () => Promise<void>): Promise<void> {
  waiting += 1;
  try {
    await load();
  } finally {
    waiting -= 1;
  }
}

/** For the pages of one dashboard: a change of scope asks only the panes it touches, and what is sent asks for the page again. */
export function unlessScope({
  currentUrl,
  nextUrl,
  formMethod,
  defaultShouldRevalidate,
}: ShouldRevalidateFunctionArgs): boolean {
  if (formMethod !== undefined || waiting > 0) return defaultShouldRevalidate;
  return currentUrl.pathname !== nextUrl.pathname || currentUrl.search === nextUrl.search;
}
