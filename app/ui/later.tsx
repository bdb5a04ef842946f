import { type ComponentType, useEffect, useRef, useState, useSyncExternalStore } from 'react';
import { useFocusInSheet } from './focus.ts';

/** A component whose script is not part of the page. */
export interface Script<Props> {
  /** Null until it has come. */
  component(): ComponentType<Props> | null;
  /** Fetches it, unless it is there or on its way; one that was lost is fetched again by the next who asks. */
  fetch(): Promise<void>;
}

const whenIdle = (run: () => void): unknown =>
  'requestIdleCallback' in window ? window.requestIdleCallback(run) : setTimeout(run, 1_000);

/** A component whose script is fetched once, when it is first asked for. */
export function scriptOf<Props>(load: () => Promise<ComponentType<Props>>): Script<Props> {
  let component: ComponentType<Props> | null = null;
  let loading: Promise<void> | null = null;
  const fetch = (): Promise<void> => {
    loading ??= load().then(
      (loaded) => {
        component = loaded;
      },
      (thrown: unknown) => {
        loading = null;
        throw thrown;
      },
    );
    return loading;
  };
  return { component: () => component, fetch };
}

/** A script that comes once the browser has nothing else to do, so that it is there when somebody opens what it is for. */
export function later<Props>(load: () => Promise<ComponentType<Props>>): Script<Props> {
  const script = scriptOf(load);
  if (typeof window !== 'undefined') whenIdle(() => void script.fetch().catch(() => undefined));
  return script;
}

/** A component that comes later, null until it has, for who needs it now; whether the connection was lost on its way. */
function useScript<Props>(of: Script<Props>): {
  Loaded: ComponentType<Props> | null;
  isLost: boolean;
} {
  const [subscribe] = useState(() => (redraw: () => void) => {
    let isWaiting = true;
    of.fetch().then(
      () => isWaiting && redraw(),
      () => undefined,
    );
    return () => {
      isWaiting = false;
    };
  });
  const Loaded = useSyncExternalStore(
    subscribe,
    () => of.component(),
    () => null,
  );
  const [isLost, setLost] = useState(false);
  useEffect(() => {
    of.fetch().catch(() => setLost(true));
  }, [of]);
  return { Loaded, isLost };
}

/** Draws a component that comes later, and nothing until it has: one that puts itself over the page and takes the focus by itself. */
export function LaterOver<Props extends object>({ of, props }: { of: Script<Props>; props: NoInfer<Props> }) {
  const { Loaded } = useScript(of);
  return Loaded && <Loaded {...props} />;
}

/** Draws a component that comes later. Who opens it before it has come waits for it, and has the focus in it all the same. */
export function Later<Props extends object>({ of, props }: { of: Script<Props>; props: Props }) {
  const { Loaded, isLost } = useScript(of);
  const place = useRef<HTMLDivElement>(null);
  const [isLate] = useState(Loaded === null);
  useFocusInSheet(place, isLate && Loaded !== null);
  return (
    <div ref={place} className="contents">
      {Loaded && <Loaded {...props} />}
      {!Loaded && isLost && (
        <p className="text-broken">The connection was lost. Close this, and open it again.</p>
      )}
    </div>
  );
}
