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
export function readable<T>(coming: T | Promise<T>): T | Promise<T> {
  if (!(coming instanceof Promise)) return coming;
  const noted: Promise<T> & Noted<T> = coming;
  if (noted.status !== undefined) return coming;
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
  return coming;
}
