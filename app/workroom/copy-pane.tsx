import { useEffect, useState } from 'react';
import { Link, useFetcher } from 'react-router';
import type { CopyAnswer } from '#core/dashboard/copy.ts';
import type { Pane } from '#core/dashboard/pane/schema.ts';
import { Button } from '../ui/button.tsx';
import { Popover } from '../ui/popover.tsx';
import { rememberDraft } from './use-draft.ts';

/** Copies a pane, as its brief stands here, to a dashboard of the desk. */
export function CopyPane({
  id,
  pane,
  dashboards,
}: {
  /** The dashboard that the pane is on. */
  id: string;
  pane: Pane;
  dashboards: readonly { readonly id: string; readonly title: string }[];
}) {
  const [open, setOpen] = useState(false);
  const { submit, data, state } = useFetcher<CopyAnswer>();
  useEffect(() => {
    if (data && 'copied' in data) rememberDraft(data.copied.id, data.before);
  }, [data]);
  return (
    <>
      <span role="status" className="text-small text-slate">
        {state === 'idle' && data && 'copied' in data && (
          <>
            Copied to{' '}
            <Link to={`/workroom/dashboards/${data.copied.id}`} className="text-accent underline">
              {data.copied.title}
            </Link>
            .
          </>
        )}
        {state === 'idle' && data && 'refused' in data && <span className="text-broken">{data.refused}</span>}
      </span>
      <Popover
        label="Copy to a dashboard"
        open={open}
        onOpenChange={setOpen}
        trigger={<Button look="quiet">Copy to …</Button>}
      >
        <p className="mb-2 text-small text-muted">The brief as it stands here, in the draft of:</p>
        <ul>
          {dashboards.map((each) => (
            <li key={each.id}>
              <button
                type="button"
                className="w-full border-b border-hair py-1.5 text-left hover:bg-wash hover:text-accent"
                onClick={() => {
                  setOpen(false);
                  void submit(
                    { pane: JSON.parse(JSON.stringify(pane)), to: each.id },
                    {
                      method: 'post',
                      action: `/workroom/dashboards/${id}/copy`,
                      encType: 'application/json',
                    },
                  );
                }}
              >
                {each.title}
                {each.id === id && <span className="text-muted"> (this one)</span>}
              </button>
            </li>
          ))}
        </ul>
      </Popover>
    </>
  );
}
