/** What React notes on a promise that it has read once, and reads from then on instead of waiting. */
interface Noted<T> {
  status?: 'pending' | 'fulfilled' | 'rejected';
  value?: T;
  reason?: unknown;
}

/**
 * Lets what a promise comes to be read with `use` from the moment that it is there, the first time too. Without that React waits a turn
 * for it wherever it is met first; what the server has drawn could not be taken over at once when a key or a click falls into it, and
 * that would be lost. What is there already is given back as it is.
 */
export function readable<T>(promise: T | Promise<T>): T | Promise<T> {
  if (!(promise instanceof Promise)) return promise;
  const noted: Promise<T> & Noted<T> = promise;
  if (noted.status !== undefined) return promise;
  noted.status = 'pending';
  noted.then(
    (value) => {
      noted.status = 'fulfilled';
      noted.value = value;
    },
    (reason) => {
      noted.status = 'rejected';
      noted.reason = reason;
    },
  );
  return promise;
}
