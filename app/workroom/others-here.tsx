import { useEffect, useState } from 'react';
import { listWords } from '#core/words/condition.ts';
import { here } from '../ui/here.ts';

/** Milliseconds between two times that a page says it has a draft. */
const every = 20_000;

/** Who else has the draft of a dashboard on a page just now. */
function useOthers(dashboard: string): readonly string[] {
  const [others, setOthers] = useState<readonly string[]>([]);
  useEffect(() => {
    let isHere = true;
    const address = here(`/workroom/dashboards/${dashboard}/here`);
    const say = async (): Promise<void> => {
      if (document.visibilityState === 'hidden') return;
      try {
        const response = await fetch(address, { method: 'POST' });
        const answer = response.ok ? ((await response.json()) as { others?: readonly string[] }) : {};
        if (isHere) setOthers(answer.others ?? []);
      } catch {
        // Out of touch, nobody is known to be here; the page says by itself that it cannot save.
        if (isHere) setOthers([]);
      }
    };
    void say();
    const timer = setInterval(() => void say(), every);
    const turned = (): void => void say();
    document.addEventListener('visibilitychange', turned);
    return () => {
      isHere = false;
      clearInterval(timer);
      document.removeEventListener('visibilitychange', turned);
      void fetch(`${address}?gone`, { method: 'POST', keepalive: true }).catch(() => undefined);
    };
  }, [dashboard]);
  return others;
}

/** Says who else is at work on the draft. */
export function OthersHere({ dashboard }: { dashboard: string }) {
  const others = useOthers(dashboard);
  return (
    <span role="status" className="text-small text-slate empty:hidden">
      {others.length > 0 && `${listWords(others, 'and')} ${others.length === 1 ? 'is' : 'are'} here too`}
    </span>
  );
}
