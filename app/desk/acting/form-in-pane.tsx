import { useEffect, useMemo, useRef, useState } from 'react';
import type { ChangeAnswer } from '#core/change/answer.ts';
import type { FormRecord } from '#core/dashboard/pane/kinds/form/kind.ts';
import { Button } from '../../ui/button.tsx';
import { ActForm } from './act-form.tsx';
import { useAct } from './use-act.ts';
import type { PostChange } from './use-acting.ts';

/** What a form starts with: the record that it is about, null for a new one, and what is picked, filtered and known now. */
interface Start {
  readonly record: FormRecord | null;
  readonly about: string;
}

const isSame = (one: Start, other: Start): boolean =>
  one.about === other.about && one.record?.key === other.record?.key;

/**
 * A form in its place on the sheet. It starts with what is picked and filtered, and starts again once that changes or it was sent, unless
 * somebody has begun to fill it in: what they typed stays, and stays about the record that they typed it for.
 */
export function FormInPane({
  pane,
  action,
  record,
  about,
  zone,
  post,
  onDone,
}: {
  pane: string;
  action: string;
  /** The record that is picked; null for a form that adds one. */
  record: FormRecord | null;
  /** What is picked, filtered and known now. */
  about: string;
  zone: string;
  post: PostChange;
  onDone: (answer: ChangeAnswer) => void;
}) {
  const [start, setStart] = useState<Start & { readonly turn: number }>({ record, about, turn: 0 });
  const latest = useRef<Start>({ record, about });
  latest.current = { record, about };
  const again = (): void => setStart(({ turn }) => ({ ...latest.current, turn: turn + 1 }));
  const intent = useMemo(
    () => ({ pane, action, keys: start.record === null ? [] : [start.record.key] }),
    [pane, action, start],
  );
  const act = useAct(intent, post, (answer) => {
    again();
    onDone(answer);
  });
  const { isBegun, restart } = act;
  useEffect(() => {
    if (!isBegun.current)
      setStart((now) => (isSame(now, { record, about }) ? now : { record, about, turn: now.turn }));
  }, [record, about, isBegun]);
  const isOfAnother = record !== null && start.record !== null && record.key !== start.record.key;
  return (
    <div className="flex flex-col gap-3">
      {start.record && <p className="font-strong">{start.record.title}</p>}
      {isOfAnother && (
        <div className="flex flex-col items-start gap-2 border-l-3 border-slipping pl-3 text-small">
          <p>What you filled in is still about {start.record?.title}.</p>
          <Button
            onClick={() => {
              restart();
              again();
            }}
          >
            Drop it, and change {record.title}
          </Button>
        </div>
      )}
      <ActForm act={act} zone={zone} onClose={null} />
    </div>
  );
}
