import type { ChangeAnswer } from '#core/change/answer.ts';
import { ActForm } from './act-form.tsx';
import { OverPage } from './over-page.tsx';
import { useAct } from './use-act.ts';
import type { AskedAct, PostChange } from './use-acting.ts';

/** An action that somebody wants to do, over the page. */
export function ActSheet({
  intent,
  zone,
  post,
  onDone,
  onClose,
}: {
  intent: AskedAct;
  zone: string;
  post: PostChange;
  onDone: (answer: ChangeAnswer) => void;
  onClose: () => void;
}) {
  const act = useAct(intent, post, onDone);
  return (
    <OverPage title={act.look?.label ?? 'One moment'} onClose={onClose}>
      <ActForm act={act} zone={zone} onClose={onClose} />
    </OverPage>
  );
}
