import { type KeyboardEvent, useEffect, useRef, useState } from 'react';
import { Link } from 'react-router';
import { type FollowUpAnswer, followUpLooks, type ListedFollowUp } from '#core/change/follow-up.ts';
import { formatDate, formatMoment, type ReadBy } from '#core/value/format/format.ts';
import { dayOf } from '#core/value/period/period.ts';
import { capital } from '#core/words/capital.ts';
import type { OpenedRecord } from '#server/panes/opened-record.ts';
import { DetailList } from '../../panes/detail/detail.tsx';
import { ProblemMessage } from '../../ui/message.tsx';
import { StateMark } from '../../ui/state-mark.tsx';
import { useAnswer } from '../../ui/use-question.ts';
import { drillToText } from '../drill-address.ts';
import type { ViewAnswer } from '../use-view-answer.ts';
import { FollowUpPanel } from './panel.tsx';

/** Of what readers have, nothing is said in addresses. */
const published = new URLSearchParams();

/** How long ago something was touched, in whole days. */
const daysSince = (moment: string, now: Date): number =>
  Math.floor((now.getTime() - new Date(moment).getTime()) / 86_400_000);

const untouched = (days: number): string =>
  days === 0 ? 'touched today' : days === 1 ? 'untouched since yesterday' : `untouched for ${days} days`;

/**
 * What is to be done, who has waited longest first, with the record and what was said of it beside: n goes to the next one. What is settled
 * stays in its place, marked, until the list is asked for again.
 */
export function WorkList({
  list,
  desk,
  by,
  empty,
}: {
  list: readonly ListedFollowUp[];
  desk: string;
  by: { readonly now: Date; readonly zone: string };
  empty: string;
}) {
  const [chosen, setChosen] = useState(list[0]?.id ?? null);
  const [settled, setSettled] = useState<ReadonlySet<string>>(new Set());
  const places = useRef<HTMLUListElement>(null);
  const at = Math.max(
    0,
    list.findIndex(({ id }) => id === chosen),
  );
  const one = list[at];
  const go = (to: number): void => {
    const next = list[to];
    if (!next) return;
    setChosen(next.id);
    places.current?.querySelectorAll<HTMLElement>('button')[to]?.focus();
  };
  const latest = useRef(go);
  latest.current = go;
  const here = useRef(at);
  here.current = at;
  useEffect(() => {
    const onKey = (event: globalThis.KeyboardEvent): void => {
      const isTyping = event.target instanceof HTMLElement && event.target.closest('input, textarea, select');
      if (isTyping || event.ctrlKey || event.metaKey || event.altKey || event.key !== 'n') return;
      event.preventDefault();
      latest.current(here.current + 1);
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  }, []);
  if (!one) return <p className="text-lead text-muted">{empty}</p>;
  const today = dayOf(by.now, by.zone);
  return (
    <div className="grid gap-x-10 gap-y-6 lg:grid-cols-[minmax(18rem,24rem)_minmax(0,1fr)]">
      <ul
        ref={places}
        aria-label="To be followed up"
        className="max-h-[calc(100vh-14rem)] overflow-auto"
        onKeyDown={(event: KeyboardEvent) => {
          const by = { ArrowDown: 1, ArrowUp: -1 }[event.key];
          if (by === undefined) return;
          event.preventDefault();
          go(at + by);
        }}
      >
        {list.map((each) => {
          const isLate = each.due !== null && each.due < today && !settled.has(each.id);
          const state = settled.has(each.id) ? 'settled' : each.state;
          return (
            <li key={each.id} className="border-b border-hair">
              <button
                type="button"
                aria-current={each.id === one.id ? 'true' : undefined}
                onClick={() => setChosen(each.id)}
                className={`flex w-full flex-col gap-0.5 px-2 py-2 text-left ${each.id === one.id ? 'bg-wash shadow-[inset_3px_0_0_var(--accent)]' : 'hover:bg-wash'}`}
              >
                <span className="flex items-baseline justify-between gap-3">
                  <span className="min-w-0 flex-1 truncate font-strong">{each.title}</span>
                  {each.isNews && <span className="text-small font-strong text-accent">new for you</span>}
                  <StateMark {...followUpLooks[state]} />
                </span>
                <span className="text-small text-muted">
                  {untouched(daysSince(each.touchedAt, by.now))}, by {each.touchedBy}
                  {each.givenTo && ` · given to ${each.givenTo}`}
                </span>
                {each.due && (
                  <span className={`text-small ${isLate ? 'text-broken' : 'text-muted'}`}>
                    {isLate ? 'was due' : 'due'} {formatDate(each.due, 'short', by)}
                  </span>
                )}
              </button>
            </li>
          );
        })}
      </ul>
      <One
        key={one.id}
        one={one}
        desk={desk}
        by={by}
        onSettled={() => {
          setSettled(new Set([...settled, one.id]));
          go(at + 1);
        }}
      />
    </div>
  );
}

/** A record that is followed up, as the pane has it from which that began. */
function One({
  one: { dashboardId, pane, key, title, noun, slug, touchedAt },
  desk,
  by,
  onSettled,
}: {
  one: ListedFollowUp;
  desk: string;
  by: ReadBy;
  onSettled: () => void;
}) {
  const [turn, setTurn] = useState(0);
  const about = new URLSearchParams({ _pane: pane, _key: key });
  const record = useAnswer<ViewAnswer<{ record: OpenedRecord }>>(
    `/view/${dashboardId}/record?${about}`,
    turn,
  );
  const said = useAnswer<ViewAnswer<{ followUp: FollowUpAnswer }>>(
    `/view/${dashboardId}/follow-up?${about}`,
    turn,
  );
  const drill = drillToText({ kind: 'record', pane, key, title });
  const name = `${capital(noun)} ${title}`;
  return (
    <section aria-label={name} className="flex min-w-0 flex-col gap-5">
      <header className="flex flex-wrap items-baseline gap-x-4">
        <h2 className="text-title">{name}</h2>
        <Link
          to={`/desk/${desk}/${slug}?${new URLSearchParams({ _drill: drill })}`}
          className="text-small text-accent hover:underline"
        >
          Open it where it stands
        </Link>
        <span className="text-small text-muted">touched {formatMoment(touchedAt, by)}</span>
      </header>
      {said.answer &&
        (said.answer.ok ? (
          <FollowUpPanel
            answer={said.answer.followUp}
            dashboard={dashboardId}
            edition={published}
            about={{ pane, key }}
            by={by}
            onSaid={(state) => {
              setTurn(turn + 1);
              if (state === 'settled') onSettled();
            }}
          />
        ) : (
          <ProblemMessage problem={said.answer.problem} />
        ))}
      {record.answer &&
        (record.answer.ok ? (
          <DetailList body={record.answer.record.detail} clock={by} />
        ) : (
          <ProblemMessage problem={record.answer.problem} />
        ))}
      {!record.answer && <p className="text-muted">Finding the record …</p>}
    </section>
  );
}
