import { useEffect, useState } from 'react';
import type { FollowUpAnswer } from '#core/change/follow-up.ts';
import { setEdition } from '#core/dashboard/edition.ts';
import type { PaneResult } from '#core/dashboard/pane/result.ts';
import type { Pane } from '#core/dashboard/pane/schema.ts';
import { formatMoment, formatNumber } from '#core/value/format/format.ts';
import { capital } from '#core/words/capital.ts';
import type { OpenedRecord, PastChange } from '#server/panes/opened-record.ts';
import { RecordActs } from '../../panes/act-bar.tsx';
import { DetailList } from '../../panes/detail/detail.tsx';
import { PaneBodyView } from '../../panes/pane-body.tsx';
import { ProblemMessage, Quiet } from '../../ui/message.tsx';
import { useDesk } from '../desk-context.ts';
import type { Drill } from '../drill-address.ts';
import { FollowUpPanel } from '../follow-up/panel.tsx';
import { usePane } from '../use-pane.ts';
import { useViewAnswer } from '../use-view-answer.ts';
import { Records } from './records.tsx';

/** What people noted of a record, and must do about it. */
function FollowUp({ drill: { pane, key } }: { drill: Extract<Drill, { kind: 'record' }> }) {
  const { clock, view } = useDesk();
  const [turn, setTurn] = useState(0);
  const answer = useViewAnswer<{ followUp: FollowUpAnswer }>('follow-up', 'reading what was said of it', [
    ['_pane', pane],
    ['_key', key],
    ['_turn', String(turn)],
  ]);
  if (!answer) return null;
  if (!answer.ok) return <ProblemMessage problem={answer.problem} />;
  const edition = new URLSearchParams();
  setEdition(edition, view.edition);
  return (
    <FollowUpPanel
      answer={answer.followUp}
      dashboard={view.id}
      edition={edition}
      about={{ pane, key }}
      by={clock}
      onSaid={() => setTurn(turn + 1)}
    />
  );
}

/** What was done to a record from here, latest first. */
function History({ past }: { past: readonly PastChange[] }) {
  const { clock } = useDesk();
  return (
    <section aria-label="What was done to it">
      <h3 className="mb-1 text-body">What was done to it</h3>
      <ol className="flex flex-col">
        {past.map(({ at, by, words, fields }) => (
          <li key={`${at} ${words}`} className="border-b border-hair py-1.5">
            <p className="text-small text-muted">
              {formatMoment(at, clock)} · {by} · {words}
            </p>
            {fields.map(({ label, before, after }) => (
              <p key={label} className="figures">
                {label}: {before !== '' && <s className="text-muted">{before}</s>} <span>{after}</span>
              </p>
            ))}
          </li>
        ))}
      </ol>
    </section>
  );
}

/** A pane of the dashboard as it is of the record alone. */
function OfRecord({ pane, result }: { pane: Pane; result: PaneResult }) {
  const given = usePane(pane);
  if (result.state === 'waiting') return null;
  return (
    <section aria-label={pane.title}>
      <h3 className="mb-1 text-body">{pane.title}</h3>
      {result.state === 'failed' ? (
        <ProblemMessage problem={result.problem} />
      ) : (
        <PaneBodyView {...given} pane={pane} body={result.body} asTable={false} inRecord />
      )}
    </section>
  );
}

/** A record that was opened: all that is shown of it, what can be done to it, what happened to it, and what refers to it. */
export function RecordView({
  drill,
  onNamed,
}: {
  drill: Extract<Drill, { kind: 'record' }>;
  /** Told what the record is called, once that is known. */
  onNamed: (key: string, title: string) => void;
}) {
  const { clock, view, context, act, change } = useDesk();
  const answer = useViewAnswer<{ record: OpenedRecord }>('record', 'opening the record', [
    ['_pane', drill.pane],
    ['_key', drill.key],
  ]);
  const title = answer?.ok ? answer.record.detail.title : null;
  useEffect(() => {
    if (title) onNamed(drill.key, title);
  }, [drill.key, title, onNamed]);
  if (!answer) return <p className="text-muted">Finding the record …</p>;
  if (!answer.ok) return <ProblemMessage problem={answer.problem} />;
  const { detail, related, offers, history, cases, isFollowedUp } = answer.record;
  const panes = new Map(context.dashboard.panes.map((pane) => [pane.id, pane]));
  if (detail.record === null)
    return (
      <div className="flex flex-col gap-2">
        <h2 className="text-title">{drill.title}</h2>
        <Quiet>It is not, or no longer, among what “{panes.get(drill.pane)?.title}” shows.</Quiet>
      </div>
    );
  const refusal = (offers && view.offers[offers.pane]?.refusal) ?? null;
  const mayAct = offers !== null && refusal === null;
  return (
    <div className="flex flex-col gap-6">
      <h2 className="text-title">
        {capital(detail.noun.one)} {detail.title ?? drill.key}
      </h2>
      {offers && (
        <RecordActs
          offers={{ ...offers, refusal }}
          onAct={(action) => act({ pane: offers.pane, action, keys: [drill.key] })}
        />
      )}
      <DetailList
        body={detail}
        clock={clock}
        {...(mayAct
          ? {
              offers,
              onChange: (field, saw, value) =>
                change({ pane: offers.pane, key: drill.key, field, saw, value }),
            }
          : {})}
      />
      {isFollowedUp && <FollowUp drill={drill} />}
      {cases.map(({ pane: id, result }) => {
        const pane = panes.get(id);
        return pane && <OfRecord key={id} pane={pane} result={result} />;
      })}
      {history.length > 0 && <History past={history} />}
      {related.map((each) => (
        <section key={each.pane}>
          <h3 className="mb-1 text-body">
            {formatNumber(each.table.total ?? '0')}{' '}
            {each.table.total === '1' ? each.table.noun.one : each.noun}
          </h3>
          {each.table.records.length > 0 && (
            <Records
              table={each.table}
              pane={each.pane}
              keyField={each.key}
              titleField={each.title}
              label={each.noun}
            />
          )}
        </section>
      ))}
    </div>
  );
}
