import RotateCw from 'lucide-react/icons/rotate-cw';
import Search from 'lucide-react/icons/search';
import X from 'lucide-react/icons/x';
import { type ReactNode, Suspense, use, useState } from 'react';
import { testOf } from '#core/dashboard/flow/context.ts';
import { type Segment, scopeSegments } from '#core/dashboard/flow/words/scope.ts';
import { withClause, withOwn } from '#core/dashboard/scope/change.ts';
import { allCounted } from '#core/value/format/counted.ts';
import { formatMoment, formatNumber } from '#core/value/format/format.ts';
import { type LateChange, lateChangeSentence } from '#core/words/late-change.ts';
import { type Outage, outageSentence } from '#core/words/outage.ts';
import type { ScopeCount, Soon } from '#server/panes/shown.ts';
import { IconButton } from '../ui/button.tsx';
import { Later, later } from '../ui/later.tsx';
import { Popover } from '../ui/popover.tsx';
import { Sentence } from '../ui/sentence.tsx';
import { useDesk } from './desk-context.ts';
import { OwnClause } from './own-clause.tsx';
import { PaperMenu } from './paper-menu.tsx';
import { SavedScopes } from './saved-scopes.tsx';

const clauseControl = later(() => import('./clause-control.tsx').then((module) => module.ClauseControl));

interface Props {
  readonly problems: readonly string[];
  /** The latest, or what comes with the page. */
  readonly count: Soon<ScopeCount | null>;
  readonly onRefresh: () => void;
  readonly onFind: () => void;
  /** ISO 8601: the oldest moment at which what is shown was true. */
  readonly trueAt: string | null;
  readonly outages: readonly (Outage & { readonly trueAt: string | null })[];
  readonly changes: readonly LateChange[];
}

/** One sentence that says exactly what the page shows; every part that can change is a control. */
export function ScopeLine({ problems, count, onRefresh, onFind, trueAt, outages, changes }: Props) {
  const { context, clock, view } = useDesk();
  const segments = scopeSegments(context);
  const hasFields = Object.keys(context.dashboard.scope).length > 0 || context.dashboard.panes.length > 0;
  return (
    <section aria-label="What this page shows" data-scope-line className="relative flex flex-col gap-1 py-5">
      <div className="flex flex-col gap-x-4 sm:flex-row sm:items-start">
        <p data-scope-sentence className="min-w-0 flex-1 text-lead text-pretty text-slate">
          <Sentence
            parts={segments.map((segment, key) => ({
              key,
              text: segment.text,
              ...(segment.kind === 'text' ? {} : { control: <SegmentView segment={segment} /> }),
            }))}
          />
          {hasFields && (
            <>
              {' '}
              <OwnClause at={context.scope.own.length} />
            </>
          )}
          {/* What comes later has its room, so that the sentence keeps its lines and the page its place. */}
          <Suspense fallback={<span className="inline-block w-[24ch]" />}>
            <Count latest={count} />
          </Suspense>
        </p>
        <div className="flex items-center gap-2 self-end sm:self-start">
          <span data-as-of className="figures min-w-[8.4ch] shrink-0 text-right text-small text-muted">
            {trueAt && `as of ${formatMoment(trueAt, clock, 'time')}`}
          </span>
          {view.edition === 'published' && <SavedScopes />}
          {view.edition === 'published' && <PaperMenu />}
          <IconButton name="Find or do (Ctrl K)" onClick={onFind} className="no-print">
            <Search className="size-4" />
          </IconButton>
          <IconButton name="Refresh (r)" onClick={onRefresh} className="no-print">
            <RotateCw className="asks-late size-4" />
          </IconButton>
        </div>
      </div>
      {/* In the room below the sentence, so that nothing on the page changes place when it comes and goes. */}
      <p role="status" className="absolute inset-x-0 bottom-1 truncate text-small text-slipping">
        {[
          ...outages.map(({ trueAt: seen, ...outage }) => outageSentence(outage, seen, clock)),
          ...changes.map((change) => lateChangeSentence(change, clock)),
        ].join(' ')}
      </p>
      {problems.map((problem) => (
        <p key={problem} role="alert" className="border-l-3 border-slipping pl-3 text-small text-slate">
          {problem}
        </p>
      ))}
    </section>
  );
}

function Count({ latest }: { latest: Soon<ScopeCount | null> }) {
  const count = latest instanceof Promise ? use(latest) : latest;
  if (!count) return null;
  const { kept, all, noun } = count;
  return (
    <span className="figures text-muted">
      {' '}
      —{' '}
      {kept === all
        ? allCounted(all, noun.one, noun.many)
        : `${formatNumber(kept)} of ${formatNumber(all)} ${noun.many}`}
    </span>
  );
}

function SegmentView({ segment }: { segment: Exclude<Segment, { kind: 'text' }> }) {
  const { setScope } = useDesk();
  switch (segment.kind) {
    case 'clause':
      return <ClauseSegment name={segment.name} text={segment.text} />;
    case 'own':
      return (
        <TakenBack
          name={`Remove “where ${segment.text}”`}
          onTake={() => setScope((now) => withOwn(now, segment.index, []))}
        >
          <OwnClause at={segment.index} text={segment.text} />
        </TakenBack>
      );
    case 'focus':
      return (
        <TakenBack
          name={`Clear ${segment.text}`}
          onTake={() =>
            setScope((now) => ({ ...now, focus: now.focus.filter((_, index) => index !== segment.index) }))
          }
        >
          {segment.text}
        </TakenBack>
      );
  }
}

/** A part that stands until its cross is clicked. */
const TakenBack = ({ name, onTake, children }: { name: string; onTake: () => void; children: ReactNode }) => (
  <span className="rounded-[3px] bg-wash py-0.5 pl-1 font-strong text-ink">
    {children}
    <button
      type="button"
      aria-label={name}
      title={name}
      onClick={onTake}
      className="ml-0.5 inline-flex size-6 items-center justify-center align-[-0.3em] text-muted hover:text-accent"
    >
      <X className="size-4" />
    </button>
  </span>
);

function ClauseSegment({ name, text }: { name: string; text: string }) {
  const { context, setScope } = useDesk();
  const [open, setOpen] = useState(false);
  const clause = context.dashboard.scope.find((each) => each.name === name);
  if (!clause) return <>{text}</>;
  return (
    <Popover
      label={`Choose ${clause.many}`}
      wide={clause.offer === 'dates' ? 'double' : false}
      open={open}
      onOpenChange={setOpen}
      trigger={
        <button type="button" className="slot">
          {text}
        </button>
      }
    >
      <Later
        of={clauseControl}
        props={{
          clause,
          test: testOf(clause, context.scope),
          onSet: (test) => setScope((scope) => withClause(scope, name, test)),
          onDone: () => setOpen(false),
        }}
      />
    </Popover>
  );
}
