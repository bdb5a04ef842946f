import Paperclip from 'lucide-react/icons/paperclip';
import { type FollowUpNote, followUpLooks } from '#core/change/follow-up.ts';
import { formatBytes, formatDate, formatMoment, type ReadBy } from '#core/value/format/format.ts';
import { listWords } from '#core/words/condition.ts';
import { here } from '../../ui/here.ts';
import { StateMark } from '../../ui/state-mark.tsx';

/** What was said of a record, latest first, with who was told and the files. */
export function Notes({
  notes,
  hrefOf,
  by,
}: {
  notes: readonly FollowUpNote[];
  /** Where a file is downloaded from, by its id. */
  hrefOf: (file: string) => string;
  by: ReadBy;
}) {
  return (
    <ol aria-label="What was said" className="flex flex-col">
      {notes.map((each) => (
        <li key={each.id} className="border-b border-hair py-1.5">
          <p className="flex flex-wrap items-baseline gap-x-3 text-small text-muted">
            <span>
              {formatMoment(each.at, by)} · {each.by}
            </span>
            <StateMark {...followUpLooks[each.state]} />
            {each.due && <span>by {formatDate(each.due, 'short', by)}</span>}
            {each.givenTo && <span>given to {each.givenTo}</span>}
            {each.recipients.length > 0 && <span>told {listWords(each.recipients)}</span>}
          </p>
          <p className="whitespace-pre-line">{each.note}</p>
          {each.files.length > 0 && (
            <ul aria-label="Files" className="flex flex-wrap gap-x-4 text-small">
              {each.files.map(({ id, name, bytes }) => (
                <li key={id} className="flex min-w-0 items-center gap-1">
                  <Paperclip className="size-3.5 shrink-0 text-muted" aria-hidden="true" />
                  <a href={here(hrefOf(id))} download={name} className="truncate text-accent hover:underline">
                    {name}
                  </a>
                  <span className="text-muted">{formatBytes(bytes)}</span>
                </li>
              ))}
            </ul>
          )}
        </li>
      ))}
    </ol>
  );
}
