import { useEffect, useState } from 'react';
import { useFetcher } from 'react-router';
import type { Problem } from '#core/value/problem/problem.ts';
import type { ChangerForm } from '#sources/form.ts';
import { Button } from '../../ui/button.tsx';
import { ConfirmRemove } from '../../ui/confirm-remove.tsx';
import { TextField } from '../../ui/field.tsx';
import { ProblemMessage } from '../../ui/message.tsx';
import { Section } from '../../ui/page.tsx';

/** Who changes the records of a source: a role apart from the one that reads, which never can. `changer`: what it is called, where it has a name. */
export function Changer({ form, changer }: { form: ChangerForm; changer: string | null }) {
  const fetcher = useFetcher<{ changer?: { problem: Problem | null; wrong: string | null } }>();
  const [open, setOpen] = useState(false);
  const answer = fetcher.data?.changer;
  const busy = fetcher.state === 'submitting';
  const isSaved = !busy && answer?.problem === null && answer.wrong === null;
  useEffect(() => {
    if (isSaved) setOpen(false);
  }, [isSaved]);
  return (
    <Section
      title="Changing records"
      note="By a role of its own. Reading goes on with the one above, and never changes anything."
    >
      {changer === null ? (
        <p className="text-muted">Nobody can yet.</p>
      ) : (
        <p>
          {changer === '' ? (
            form.secret === null ? (
              'As anybody who reaches it.'
            ) : (
              'With a credential of its own.'
            )
          ) : (
            <>
              As <span className="font-mono">{changer}</span>
            </>
          )}
        </p>
      )}
      {open ? (
        <fetcher.Form method="post" className="mt-2 flex flex-col gap-3">
          <input type="hidden" name="ask" value="changer" />
          {form.user === null && form.secret === null && (
            <p className="text-muted">
              This source does not ask who is calling, so there is nothing to fill in.
            </p>
          )}
          {form.user !== null && (
            <TextField
              label={form.user}
              name="user"
              defaultValue={changer ?? ''}
              autoComplete="off"
              problem={answer?.wrong ?? undefined}
            />
          )}
          {form.secret !== null && (
            <TextField label={form.secret} name="secret" type="password" autoComplete="new-password" />
          )}
          {answer?.problem && <ProblemMessage problem={answer.problem} />}
          <div className="flex gap-2">
            <Button type="submit" look="main" disabled={busy}>
              {busy ? 'Connecting …' : 'Test and save'}
            </Button>
            <Button look="quiet" onClick={() => setOpen(false)}>
              Cancel
            </Button>
          </div>
        </fetcher.Form>
      ) : (
        <div className="mt-2 flex gap-2">
          <Button onClick={() => setOpen(true)}>{changer === null ? 'Name a role' : 'Name another'}</Button>
          {changer !== null && (
            <ConfirmRemove
              what={changer === '' ? 'the right to change records' : `the role ${changer}`}
              goesWith={['Nobody can change records of this source until another is named.']}
              ending="The role itself stays at the source."
              onRemove={() => void fetcher.submit({ ask: 'no changer' }, { method: 'post' })}
              trigger={<Button look="quiet">Remove</Button>}
            />
          )}
        </div>
      )}
    </Section>
  );
}
