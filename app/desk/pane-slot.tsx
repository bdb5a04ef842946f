import ChartNoAxesColumn from 'lucide-react/icons/chart-no-axes-column';
import FilterX from 'lucide-react/icons/filter-x';
import PenLine from 'lucide-react/icons/pen-line';
import RotateCw from 'lucide-react/icons/rotate-cw';
import Table2 from 'lucide-react/icons/table-2';
import {
  Component,
  type CSSProperties,
  memo,
  type ReactNode,
  Suspense,
  use,
  useEffect,
  useState,
} from 'react';
import { Link, useLocation } from 'react-router';
import { type Edition, setEdition } from '#core/dashboard/edition.ts';
import { notNarrowedWords } from '#core/dashboard/flow/words/not-narrowed.ts';
import { waitingWords } from '#core/dashboard/flow/words/waiting.ts';
import type { Pane } from '#core/dashboard/pane/schema.ts';
import { queryText } from '#core/dashboard/scope/address.ts';
import { capital } from '#core/words/capital.ts';
import { lookOf } from '../panes/looks.ts';
import { PaneBodyView } from '../panes/pane-body.tsx';
import { Button, IconButton } from '../ui/button.tsx';
import { ProblemMessage, Quiet } from '../ui/message.tsx';
import { StateMark } from '../ui/state-mark.tsx';
import { useDesk } from './desk-context.ts';
import { usePane } from './use-pane.ts';
import type { Showing } from './use-panes.ts';

interface Props extends Showing {
  readonly pane: Pane;
  readonly onRetry: (pane: string) => void;
  readonly briefLink: string | undefined;
}

/** The scope of the page, for the page that says why. */
function whySearch(search: string, edition: Edition): string {
  const params = new URLSearchParams(search);
  setEdition(params, edition);
  return params.size > 0 ? `?${queryText(params)}` : '';
}

/**
 * A pane in its place on the sheet: its title, its tools, and what it shows. What fails in it stays in it, and what arrives for others
 * does not concern it.
 */
export const PaneSlot = memo(function PaneSlot({ pane, result, isStale, onRetry, briefLink }: Props) {
  const { view } = useDesk();
  const [asTable, setAsTable] = useState(false);
  const reads = view.reads[pane.id];
  const broken = (reads?.dataSets ?? []).flatMap((id) => view.broken[id] ?? []);
  const { x, y, w, h } = pane.place;
  const title = pane.title || 'Untitled';
  return (
    <section
      aria-label={title}
      data-pane={pane.id}
      data-kind={pane.kind}
      data-fills={lookOf(pane).fills}
      className="pane relative flex min-w-0 flex-col overflow-hidden border-t border-hair pt-2.5 pb-3"
      style={
        {
          gridColumn: `${x + 1} / span ${w}`,
          gridRow: `${y + 1} / span ${h}`,
          '--rows': h,
        } as CSSProperties
      }
    >
      <Head pane={pane} title={title} briefLink={briefLink} asTable={asTable} onTwin={setAsTable} />
      {broken.length > 0 && (
        <p
          className="flex items-baseline gap-1.5 truncate text-small text-slipping"
          title={broken.join('. ')}
        >
          <StateMark tone="slipping" word="" /> {broken[0]}
          {broken.length > 1 && `, and ${broken.length - 1} more`}
        </p>
      )}
      <PaneBoundary>
        <Suspense fallback={<Loading />}>
          <Shown pane={pane} result={result} isStale={isStale} onRetry={onRetry} asTable={asTable} />
        </Suspense>
      </PaneBoundary>
    </section>
  );
});

interface HeadProps {
  readonly pane: Pane;
  readonly title: string;
  readonly briefLink: string | undefined;
  readonly asTable: boolean;
  readonly onTwin: (asTable: boolean) => void;
}

/** The title and the tools of a pane, which no answer changes. */
const Head = memo(function Head({ pane, title, briefLink, asTable, onTwin }: HeadProps) {
  const { view } = useDesk();
  const { search } = useLocation();
  const sentence = view.sentences[pane.id];
  return (
    <header className="flex min-h-7 items-start gap-2">
      <h2
        className="min-w-0 flex-1 truncate text-body leading-7 max-sm:line-clamp-3 max-sm:leading-6 max-sm:whitespace-normal"
        title={title}
      >
        {title}
      </h2>
      <div className="tools absolute top-2.5 right-0 z-10 flex gap-0.5 ground pl-2">
        {lookOf(pane).hasTwin && (
          <IconButton name={asTable ? 'Show as a chart' : 'Show as a table'} onClick={() => onTwin(!asTable)}>
            {asTable ? <ChartNoAxesColumn className="size-4" /> : <Table2 className="size-4" />}
          </IconButton>
        )}
        {sentence && (
          <details className="group/made static">
            <summary className="flex h-7 list-none items-center rounded-[4px] px-1.5 text-small text-muted hover:bg-wash hover:text-accent">
              How is this made?
            </summary>
            <div className="absolute right-0 z-20 w-80 max-w-full rounded-[6px] border border-line bg-sheet p-3 text-small">
              <p>{sentence}</p>
              {view.mayBuild && (
                <Link
                  to={`/workroom/dashboards/${view.id}/why/${pane.id}${whySearch(search, view.edition)}`}
                  className="mt-2 inline-block text-accent hover:underline"
                >
                  Why these numbers?
                </Link>
              )}
            </div>
          </details>
        )}
        {briefLink && (
          <Link
            to={briefLink}
            className="inline-flex size-7 items-center justify-center rounded-[4px] text-muted hover:bg-wash hover:text-accent"
            aria-label={`Edit the brief of ${title}`}
            title="Edit the brief"
          >
            <PenLine className="size-4" />
          </Link>
        )}
      </div>
    </header>
  );
});

function Shown({
  pane,
  result: latest,
  isStale,
  onRetry,
  asTable,
}: Omit<Props, 'briefLink'> & { readonly asTable: boolean }) {
  const { context, view } = useDesk();
  const given = usePane(pane);
  const result = latest instanceof Promise ? use(latest) : latest;
  if (!result) return <Loading />;
  const reads = view.reads[pane.id];
  const notNarrowed =
    reads && !reads.followsPicks && result.state !== 'waiting' ? notNarrowedWords(reads, context) : '';
  return (
    <div className="relative flex min-h-0 flex-1 flex-col" aria-busy={isStale}>
      {notNarrowed && (
        <p className="flex items-baseline gap-1.5 text-small text-muted" title={notNarrowed}>
          <FilterX aria-hidden="true" className="size-3.5 shrink-0 self-center" />
          <span className="truncate">{capital(notNarrowed)}</span>
        </p>
      )}
      <div className="steps-back flex min-h-0 flex-1 flex-col">
        {result.state === 'waiting' && <Quiet>{waitingWords(result)}</Quiet>}
        {result.state === 'failed' && (
          <ProblemMessage problem={result.problem}>
            <Button className="mt-1 self-start" onClick={() => onRetry(pane.id)}>
              <RotateCw className="size-3.5" /> Try again
            </Button>
          </ProblemMessage>
        )}
        {result.state === 'ready' && (
          <PaneBodyView {...given} pane={pane} body={result.body} asTable={asTable} />
        )}
      </div>
      {isStale && <Elapsed />}
    </div>
  );
}

function Loading() {
  return (
    <div
      className="relative flex min-h-12 flex-1 flex-col gap-2 pt-1"
      role="status"
      aria-label="Loading"
      data-awaited
    >
      <div className="h-3 w-2/5 rounded bg-well" />
      <div className="h-3 w-3/5 rounded bg-well" />
      <Elapsed />
    </div>
  );
}

/** The time it is taking, once that is over a second. */
function Elapsed() {
  const [seconds, setSeconds] = useState(0);
  useEffect(() => {
    const start = performance.now();
    const timer = setInterval(() => setSeconds(Math.floor((performance.now() - start) / 1000)), 250);
    return () => clearInterval(timer);
  }, []);
  if (seconds < 1) return null;
  return (
    <p className="figures absolute top-0 right-0 rounded ground px-1.5 text-small text-muted">{seconds} s</p>
  );
}

/** What breaks while a pane is drawn breaks that pane only. */
class PaneBoundary extends Component<{ children: ReactNode }, { broken: boolean }> {
  override state = { broken: false };
  static getDerivedStateFromError() {
    return { broken: true };
  }
  override render() {
    if (!this.state.broken) return this.props.children;
    return (
      <ProblemMessage
        problem={{
          code: 'internal',
          doing: 'drawing this pane',
          why: 'what came back could not be drawn',
          mend: 'The other panes are not touched. Reload the page to try again.',
        }}
      />
    );
  }
}
