/** A run that several askers wait for. It is stopped when the last of them has left. */
interface Shared<T> {
  readonly result: Promise<T>;
  readonly stop: AbortController;
  waiting: number;
}

/**
 * Lets equal questions in flight share one run: askers with the same key get the same promise. An asker whose own
 * signal aborts leaves alone; the run goes on while anybody waits. `forget`: whoever asks from now on joins none that has begun, since
 * what it is about to answer may not hold any more.
 */
export function sharing<T>() {
  const inFlight = new Map<string, Shared<T>>();
  function share(
    key: string,
    signal: AbortSignal | undefined,
    run: (signal: AbortSignal) => Promise<T>,
  ): Promise<T> {
    let shared = inFlight.get(key);
    if (!shared) {
      const stop = new AbortController();
      const result = run(stop.signal).finally(() => remove());
      // Without this an aborted run whose askers have all left would count as unhandled.
      result.catch(() => undefined);
      const made = { result, stop, waiting: 0 };
      // Another may stand in its place by now.
      const remove = (): void => {
        if (inFlight.get(key) === made) inFlight.delete(key);
      };
      shared = made;
      inFlight.set(key, shared);
    }
    const joined = shared;
    joined.waiting += 1;
    if (!signal) return joined.result;
    return new Promise<T>((resolve, reject) => {
      const leave = (): void => {
        joined.waiting -= 1;
        if (joined.waiting === 0) {
          if (inFlight.get(key) === joined) inFlight.delete(key);
          joined.stop.abort();
        }
        joined.result.catch(reject);
      };
      if (signal.aborted) return leave();
      signal.addEventListener('abort', leave, { once: true });
      joined.result.then(resolve, reject).finally(() => signal.removeEventListener('abort', leave));
    });
  }
  return Object.assign(share, { forget: (): void => inFlight.clear() });
}
