import type { ShouldRevalidateFunctionArgs } from 'react-router';
import { isAwaited } from '../ui/load-again.ts';

/** For the pages of one dashboard: a change of scope asks only the panes it touches, and what is sent asks for the page again. */
export function unlessScope({
  currentUrl,
  nextUrl,
  formMethod,
  defaultShouldRevalidate,
}: ShouldRevalidateFunctionArgs): boolean {
  if (formMethod !== undefined || isAwaited('page')) return defaultShouldRevalidate;
  return currentUrl.pathname !== nextUrl.pathname || currentUrl.search === nextUrl.search;
}
