import { useEffect, useMemo, useRef, useState } from 'react';
import type { ChangeAnswer } from '#core/change/answer.ts';
import { ActForm, useAct } from './act-form.tsx';
import type { PostChange } from './use-acting.ts';

/**
 * A form in its place on the sheet. It starts with what is picked and filtered, and starts again once that changes or a record was added,
 * unless somebody has begun to fill it in: what they typed stays.
 */
export function FormInPane({
  pane,
  action,
  about,
  zone,
  post,
  onDone,
}: {
  pane: string;
  action: string;
  /** What is picked and filtered. */
  about: string;
  zone: string;
  post: PostChange;
  onDone: (answer: ChangeAnswer) => void;
}) {
  const [start, setStart] = useState({ about, turn: 0 });
  // biome-ignore lint/correctness/useExhaustiveDependencies: each start asks again
  const intent = useMemo(() => ({ pane, action, keys: [] }), [pane, action, start]);
  const act = useAct(intent, post, (answer) => {
    setStart(({ turn }) => ({ about: latest.current, turn: turn + 1 }));
    onDone(answer);
  });
  const latest = useRef(about);
  latest.current = about;
  const { isBegun } = act;
  useEffect(() => {
    if (!isBegun.current) setStart((now) => (now.about === about ? now : { about, turn: now.turn }));
  }, [about, isBegun]);
  return <ActForm act={act} zone={zone} onClose={null} />;
}
