import { data, isRouteErrorResponse } from 'react-router';

/** A save that did not arrive, or could not be done just now: why, in words. */
export interface Unsent {
  readonly unsent: string;
}

/** What stands between a browser and this server, or the server itself, says so with these (RFC 9110, section 15.6). */
const away = new Set([502, 503, 504]);

const unreached =
  'This server cannot be reached just now. What you did stays on the page; save it again once it can be.';

/**
 * Sends a save. Where it does not arrive, or our own database is away or full, the page stays with all that was typed, and is told; any other
 * answer is what it is.
 */
export async function saveOrStay<Answer>(send: () => Promise<Answer>) {
  try {
    return await send();
  } catch (thrown) {
    const isAnswer = isRouteErrorResponse(thrown);
    // What a browser throws where nothing answered (Fetch Standard).
    if (!(isAnswer ? away.has(thrown.status) : thrown instanceof TypeError)) throw thrown;
    const said = isAnswer ? (thrown.data as { why?: unknown } | null)?.why : undefined;
    const unsent = typeof said === 'string' ? said : unreached;
    return data<Unsent>({ unsent }, { status: 503 });
  }
}
