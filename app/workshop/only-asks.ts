import type { ShouldRevalidateFunctionArgs } from 'react-router';

/** What only asks and changes nothing: nothing that a page has loaded is out of date after it. */
const asks = new Set(['/workshop/try', '/workshop/preview', '/theme']);

/** Loads a page's data anew after what may have changed it, and not after a mere question. */
export const shouldRevalidate = ({
  formAction,
  defaultShouldRevalidate,
}: ShouldRevalidateFunctionArgs): boolean =>
  defaultShouldRevalidate && !(formAction !== undefined && asks.has(formAction));
