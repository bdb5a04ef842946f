import { useEffect, useRef } from 'react';
import { waitingWords } from '#core/dashboard/flow/words/waiting.ts';
import type { PaneResult } from '#core/dashboard/pane/result.ts';
import type { Pane } from '#core/dashboard/pane/schema.ts';
import type { RecordNames } from '#core/dataset/naming.ts';
import type { ReadBy } from '#core/value/format/format.ts';
import { ProblemMessage, Quiet } from '../ui/message.tsx';
import { idle } from './idle.tsx';
import { PaneBodyView } from './pane-body.tsx';

const controls = 'a, button, input, select, textarea, summary, tr';

/** What a pane shows, only to be looked at: Tab leads to nothing in it but what scrolls, and nothing is pressed (`[data-still]`). */
export function StillPane({
  pane,
  result,
  records,
  clock,
  className = '',
}: {
  pane: Pane;
  result: PaneResult;
  records: RecordNames;
  clock: ReadBy;
  className?: string;
}) {
  const place = useRef<HTMLDivElement>(null);
  useEffect(() => {
    const within = place.current;
    if (!within) return;
    const passOver = (): void => {
      for (const control of within.querySelectorAll<HTMLElement>(controls)) control.tabIndex = -1;
    };
    passOver();
    // Some of it is drawn later.
    const watch = new MutationObserver(passOver);
    watch.observe(within, { childList: true, subtree: true });
    return () => watch.disconnect();
  }, []);
  return (
    <div ref={place} data-still data-kind={pane.kind} className={`flex min-h-0 flex-col ${className}`}>
      {result.state === 'waiting' && <Quiet>{waitingWords(result)}</Quiet>}
      {result.state === 'failed' && <ProblemMessage problem={result.problem} />}
      {result.state === 'ready' && (
        <PaneBodyView
          pane={pane}
          body={result.body}
          clock={clock}
          view={{}}
          recordOf={(id) => records[id] ?? {}}
          isPicked={() => false}
          offers={null}
          actions={idle}
          fileOf={() => ''}
          asTable={false}
        />
      )}
    </div>
  );
}
