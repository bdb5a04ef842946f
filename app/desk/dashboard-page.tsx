import { lazy, Suspense, useCallback, useLayoutEffect, useMemo, useRef, useState } from 'react';
import { useLocation, useNavigate } from 'react-router';
import type { ChangeAnswer } from '#core/change/answer.ts';
import { type Context, shortNames } from '#core/dashboard/flow/context.ts';
import type { FormRecord } from '#core/dashboard/pane/kinds/form/kind.ts';
import { pickedId } from '#core/dashboard/pane/result.ts';
import { asksOnly, usesOf } from '#core/dashboard/pane/uses.ts';
import { queryText, readScope, writeScope } from '#core/dashboard/scope/address.ts';
import { withoutLatestPick, withPick } from '#core/dashboard/scope/change.ts';
import type { Focus, Scope } from '#core/dashboard/scope/state.ts';
import type { DashboardView, FirstResults } from '#server/panes/shown.ts';
import { Later, later, scriptOf } from '../ui/later.tsx';
import { SkipLink } from '../ui/skip-link.tsx';
import { NoticeLine } from './acting/notice-line.tsx';
import { type AskedAct, useActing } from './acting/use-acting.ts';
import { DeskProvider } from './desk-context.ts';
import { isListing, type OpenedRecord, useNeighbours } from './drill/neighbours.ts';
import { type Drill, drillFromText, drillToText } from './drill-address.ts';
import { PaneSlot } from './pane-slot.tsx';
import { ScopeLine } from './scope-line.tsx';
import { useChanges } from './use-changes.ts';
import { useDeskKeys } from './use-desk-keys.ts';
import { useLateMark } from './use-late-mark.ts';
import { usePanes } from './use-panes.ts';
import { usePrintSize } from './use-print-size.ts';

const SignInAgain = lazy(() =>
  import('../ui/sign-in-again.tsx').then((module) => ({ default: module.SignInAgain })),
);
const findSheet = later(() => import('./find-sheet.tsx').then((module) => module.FindSheet));
const FormInPane = lazy(() =>
  import('./acting/form-in-pane.tsx').then((module) => ({ default: module.FormInPane })),
);
const actSheet = later(() => import('./acting/act-sheet.tsx').then((module) => module.ActSheet));
// Few have rows of a spreadsheet: its script comes when it is asked for.
const pasteSheet = scriptOf(() => import('./acting/paste-sheet.tsx').then((module) => module.PasteSheet));
const drillSheet = later(() => import('./drill/sheet.tsx').then((module) => module.DrillSheet));

interface Props {
  readonly view: DashboardView;
  readonly first: FirstResults;
  /** What stands between the scope line and the panes while building. */
  readonly children?: React.ReactNode;
  readonly briefLink?: (pane: string) => string;
  readonly arrange?: React.ReactNode;
}

const same = (scope: Scope): Scope => scope;

/** The pane that records of one are opened from: itself where it lists them, else another that does. */
function recordsPane(
  { panes }: DashboardView['dashboard'],
  about: string,
  lists: (pane: string) => boolean,
): string | null {
  const pane = panes.find(({ id }) => id === about);
  const dataSet = pane && usesOf(pane)[0]?.dataSet;
  const able = panes.filter((each) => usesOf(each)[0]?.dataSet === dataSet && !asksOnly(each));
  return (
    (able.find(({ id }) => id === about && lists(id)) ?? able.find(({ id }) => lists(id)) ?? able[0])?.id ??
    null
  );
}

/** What is opened stands over the whole page, and not beside it. */
const overPage = '_over';

/** The address of a scope with what is drilled into. A single question mark leads to the page with nothing chosen. */
function searchOf(scope: Scope, steps: readonly Drill[], isOver: boolean): string {
  const params = writeScope(scope);
  for (const step of steps) params.append('_drill', drillToText(step));
  if (isOver && steps.length > 0) params.set(overPage, 'page');
  return `?${queryText(params)}`;
}

/** A dashboard: the scope line, the sheet of panes, and what is drilled into. Its whole state is in the address. */
export function DashboardPage({ view, first, children, briefLink, arrange }: Props) {
  const location = useLocation();
  const navigate = useNavigate();
  const [signedOut, setSignedOut] = useState(false);
  const [turn, setTurn] = useState(0);
  const onSignedOut = useCallback(() => setSignedOut(true), []);
  const dataSets = useMemo(() => new Map(Object.entries(view.dataSets)), [view.dataSets]);
  const { scope, problems } = useMemo(
    () => readScope(new URLSearchParams(location.search), view.vocabulary),
    [location.search, view.vocabulary],
  );
  const clock = useMemo(
    () => ({ now: new Date(view.now), zone: view.desk.zone }),
    [view.now, view.desk.zone],
  );
  const panes = usePanes(view, first, scope, location.search, onSignedOut);
  const { askAhead } = panes;

  const acting = useActing(view, location.search, onSignedOut);
  const { setIntent, setPasting, change, post, tell } = acting;
  const picked = panes.picked(pickedId);
  const context: Context = useMemo(
    () => ({ dashboard: view.dashboard, dataSets, scope, clock, ...(picked ? { picked } : {}) }),
    [view.dashboard, dataSets, scope, clock, picked],
  );
  const drills = useMemo(
    () => new URLSearchParams(location.search).getAll('_drill').flatMap((text) => drillFromText(text) ?? []),
    [location.search],
  );
  // What the address is about to say: a change made before the page has followed the one before must not undo it.
  const isOver = useMemo(() => new URLSearchParams(location.search).has(overPage), [location.search]);
  const latest = useRef<{ scope: Scope; drills: readonly Drill[]; isOver: boolean }>({
    scope,
    drills,
    isOver,
  });
  // As soon as it is on the page: a key that is pressed on seeing it is not to be undone a moment later.
  useLayoutEffect(() => {
    latest.current = { scope, drills, isOver };
  }, [scope, drills, isOver]);
  const go = useCallback(
    (change: (scope: Scope) => Scope, steps: readonly Drill[], over = latest.current.isOver) => {
      const next = change(latest.current.scope);
      const search = searchOf(next, steps, over);
      if (next !== latest.current.scope) askAhead(next, search);
      latest.current = { scope: next, drills: steps, isOver: over };
      void navigate({ search }, { preventScrollReset: true });
    },
    [navigate, askAhead],
  );
  const names = useMemo(() => shortNames(view.dashboard, dataSets), [view.dashboard, dataSets]);
  // What is asked for again is made further down.
  const refreshAfter = useRef<() => void>(() => undefined);
  const desk = useMemo(
    () => ({
      view,
      context,
      clock,
      setScope: (change: (scope: Scope) => Scope) => go(change, []),
      pick: (focus: Focus, from?: string) => go((now) => withPick(now, focus, view.vocabulary, from), []),
      open: (drill: Drill) => go(same, [...latest.current.drills, drill]),
      hrefOf: (drill: Drill) => searchOf(scope, [...drills, drill], isOver),
      act: setIntent,
      paste: setPasting,
      form: (pane: string, action: string, record: FormRecord | null) => (
        <Suspense>
          <FormInPane
            key={action}
            pane={pane}
            action={action}
            record={record}
            about={`${location.search} ${turn}`}
            zone={view.desk.zone}
            post={post}
            onDone={(answer) => {
              tell(answer);
              refreshAfter.current();
              latestAfter.current({ pane, action, keys: record ? [record.key] : [] }, answer);
            }}
          />
        </Suspense>
      ),
      change,
      turn,
      onSignedOut,
      shortName: (id: string) => names.get(id) ?? '',
    }),
    [
      view,
      context,
      clock,
      scope,
      go,
      drills,
      isOver,
      names,
      setIntent,
      setPasting,
      change,
      turn,
      onSignedOut,
      location.search,
      post,
      tell,
    ],
  );
  const takeBack = useCallback(() => {
    const now = latest.current;
    if (now.drills.length > 0) go(same, now.drills.slice(0, -1));
    else if (now.scope.focus.length > 0) go(withoutLatestPick, []);
  }, [go]);
  const neighbours = useNeighbours(drills, panes.resultOf, (id) => {
    const pane = view.dashboard.panes.find((each) => each.id === id);
    return dataSets.get(pane ? (usesOf(pane)[0]?.dataSet ?? '') : '') ?? {};
  });
  const { besideOf } = neighbours;
  const beside = useCallback(() => besideOf(latest.current.drills), [besideOf]);
  const goBeside = useCallback(
    (record: OpenedRecord | null) =>
      go(same, [...latest.current.drills.slice(0, -1), ...(record ? [record] : [])]),
    [go],
  );
  /** Shows what an action says that comes after it. */
  const showAfter = (
    { pane, action, keys }: Pick<AskedAct, 'pane' | 'action' | 'keys'>,
    answer: ChangeAnswer,
  ) => {
    const opened = latest.current.drills.at(-1);
    const offered = view.offers[pane]?.actions.find(({ name }) => name === action);
    if (answer.state !== 'done' || !offered?.after) return;
    const isOpened = opened?.kind === 'record' && keys !== 'all' && keys.includes(opened.key);
    if (offered.after === 'next') {
      if (isOpened) goBeside(beside().next);
      return;
    }
    const done =
      answer.added ??
      (keys !== 'all' && keys.length === 1 ? { key: keys[0] ?? '', title: keys[0] ?? '' } : null);
    const shows = recordsPane(view.dashboard, pane, (id) => isListing(panes.resultOf(id)));
    if (done && shows && !isOpened) go(same, [{ kind: 'record', pane: shows, ...done }]);
  };
  const latestAfter = useRef(showAfter);
  latestAfter.current = showAfter;
  const nextTurn = useCallback(() => setTurn((now) => now + 1), []);
  const refresh = useCallback(() => {
    nextTurn();
    panes.refresh();
  }, [nextTurn, panes.refresh]);
  // What it changed is mostly heard of before it is answered, and asked for by then.
  refreshAfter.current = () => {
    nextTurn();
    panes.refresh(acting.sentAt.current);
  };
  const [isFinding, setFinding] = useState(false);
  const find = useCallback(() => setFinding(true), []);
  useDeskKeys({ refresh, takeBack, find, briefLink });
  usePrintSize();
  const main = useLateMark(panes.isBusy);

  useChanges(view, (dataSets) => {
    nextTurn();
    panes.changed(dataSets);
  });

  return (
    <DeskProvider value={desk}>
      <main ref={main} id="main" tabIndex={-1} className="mx-auto max-w-[1680px] px-4 pb-16 sm:px-7">
        <h1 className="sr-only">{view.dashboard.title}</h1>
        {!arrange && <SkipLink to="panes">Skip to the panes</SkipLink>}
        <ScopeLine
          problems={problems}
          count={panes.count}
          onRefresh={refresh}
          onFind={find}
          trueAt={panes.trueAt}
          outages={panes.outages}
          changes={panes.changes}
        />
        {children}
        {arrange ?? (
          <div id="panes" className="sheet-grid">
            {view.dashboard.panes.map((pane) => (
              <PaneSlot
                key={pane.id}
                pane={pane}
                {...panes.showing(pane.id)}
                onRetry={panes.retry}
                briefLink={briefLink?.(pane.id)}
              />
            ))}
          </div>
        )}
        {!arrange && view.dashboard.panes.length === 0 && view.edition !== 'draft' && (
          <p className="text-lead text-muted">There is nothing on this dashboard yet.</p>
        )}
      </main>
      {drills.length > 0 && (
        <Later
          of={drillSheet}
          props={{
            drills,
            isOver,
            neighbours,
            beside,
            tell: neighbours.tell,
            goBeside,
            go: (steps: readonly Drill[], over?: boolean) => go(same, steps, over),
            back: () => go(same, latest.current.drills.slice(0, -1)),
            page: view.dashboard.title,
          }}
        />
      )}
      {acting.intent && (
        <Later
          of={actSheet}
          props={{
            intent: acting.intent,
            zone: view.desk.zone,
            post: acting.post,
            onDone: (answer: ChangeAnswer) => {
              acting.intent?.onDone?.();
              setIntent(null);
              acting.tell(answer);
              refreshAfter.current();
              if (acting.intent) showAfter(acting.intent, answer);
            },
            onClose: () => setIntent(null),
          }}
        />
      )}
      {acting.pasting && (
        <Later
          of={pasteSheet}
          props={{
            asked: acting.pasting,
            post: acting.post,
            readRows: acting.readRows,
            onDone: (answer: ChangeAnswer) => {
              setPasting(null);
              acting.tell(answer);
              refreshAfter.current();
            },
            onClose: () => setPasting(null),
          }}
        />
      )}
      <NoticeLine
        notice={acting.notice}
        onUndo={(batch) => void acting.undo(batch)}
        onClose={() => acting.setNotice(null)}
      />
      {isFinding && <Later of={findSheet} props={{ onClose: () => setFinding(false), onRefresh: refresh }} />}
      {signedOut && (
        <Suspense>
          <SignInAgain
            onDone={() => {
              setSignedOut(false);
              refresh();
            }}
          />
        </Suspense>
      )}
    </DeskProvider>
  );
}
