import { useState } from 'react';
import { Link } from 'react-router';
import type { DraftReview } from '#server/definitions/draft-review.ts';
import { Button } from '../ui/button.tsx';
import { TextAreaField } from '../ui/field.tsx';
import { ProblemMessage } from '../ui/message.tsx';
import { Popover } from '../ui/popover.tsx';
import { StateMark } from '../ui/state-mark.tsx';
import { lostProblem, useAnswer } from '../ui/use-question.ts';

const tones = { broken: 'To mend', slipping: 'To look at' } as const;

/** Says what publishing would change and what is to be looked at before, takes a note, and publishes. */
export function PublishButton({
  id,
  disabled,
  title,
  busy,
  onPublish,
}: {
  id: string;
  disabled: boolean;
  title: string | undefined;
  busy: boolean;
  onPublish: (remark: string) => void;
}) {
  const [open, setOpen] = useState(false);
  const [remark, setRemark] = useState('');
  return (
    <Popover
      label="Publish"
      wide="double"
      open={open}
      onOpenChange={setOpen}
      trigger={
        <Button look="main" disabled={disabled || busy} title={title}>
          {busy ? 'Publishing …' : 'Publish'}
        </Button>
      }
    >
      <form
        className="flex max-h-[70vh] flex-col gap-4 overflow-y-auto"
        onSubmit={(event) => {
          event.preventDefault();
          setOpen(false);
          onPublish(remark);
          setRemark('');
        }}
      >
        {/* As high as a short answer from the start, lest what is pressed beneath moves away. */}
        <div aria-live="polite" className="flex min-h-24 flex-col gap-3">
          <Review id={id} />
        </div>
        <TextAreaField
          label="A note on this version (optional)"
          rows={2}
          maxLength={2000}
          value={remark}
          onChange={({ target }) => setRemark(target.value)}
        />
        <Button type="submit" look="main" className="self-start" autoFocus>
          Publish now
        </Button>
      </form>
    </Popover>
  );
}

/** Looks at the draft as it is when this is opened; what was found the time before says nothing any more. */
function Review({ id }: { id: string }) {
  const [openedAt] = useState(() => Date.now());
  const { answer, isLost } = useAnswer<DraftReview>(`/workroom/dashboards/${id}/review`, openedAt);
  if (answer)
    return <Reviewed {...answer} beside={`/workroom/dashboards/${id}/versions/published/beside/draft`} />;
  if (!isLost) return <p className="text-muted">Looking at every pane …</p>;
  return <ProblemMessage problem={lostProblem('looking at every pane')} />;
}

function Reviewed({ changes, findings, beside }: DraftReview & { beside: string }) {
  return (
    <>
      {findings.length > 0 && (
        <section aria-label="To look at first">
          <h3 className="mb-1 text-small text-slate">Look at this first</h3>
          <ul>
            {findings.map(({ tone, words }) => (
              <li key={words} className="flex gap-2 border-b border-hair py-1">
                <StateMark tone={tone} word={tones[tone]} />
                <span className="min-w-0">{words}</span>
              </li>
            ))}
          </ul>
        </section>
      )}
      <section aria-label="What readers will find changed">
        <h3 className="mb-1 text-small text-slate">What readers will find changed</h3>
        {changes === null ? (
          <p>Everything: nothing has been published of it yet.</p>
        ) : changes.length === 0 ? (
          <p className="text-muted">Readers will see no difference.</p>
        ) : (
          <ul className="list-disc pl-5">
            {changes.map((change) => (
              <li key={change}>{change}</li>
            ))}
          </ul>
        )}
        {changes !== null && changes.length > 0 && (
          <Link to={beside} className="mt-1 inline-block text-accent hover:underline">
            See both beside each other
          </Link>
        )}
      </section>
    </>
  );
}
