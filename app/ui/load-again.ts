/** What of a page may have to be loaded again: what it is about, or how pages look. */
type What = 'page' | 'look';

/** How many wait for each to be loaded again. */
const waiting: Record<What, number> = { page: 0, look: 0 };

/**
 * Does what has something loaded again. A navigation that comes before it is takes its place: what says whether to load for
 * that one asks here too, lest the page show for good what was so before.
 */
export async function untilLoaded(what: What, load: () => Promise<void>): Promise<void> {
  waiting[what] += 1;
  try {
    await load();
  } finally {
    waiting[what] -= 1;
  }
}

/** Whether something waits to be loaded again. */
export const isAwaited = (what: What): boolean => waiting[what] > 0;
