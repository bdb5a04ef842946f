import { type ComponentProps, useEffect, useMemo, useState } from 'react';
import { Link, useLocation, useNavigate } from 'react-router';
import { lostWith } from '#core/dashboard/flow/check.ts';
import { briefParts } from '#core/dashboard/flow/words/brief.ts';
import { waitingWords } from '#core/dashboard/flow/words/waiting.ts';
import type { PaneResult } from '#core/dashboard/pane/result.ts';
import type { Pane } from '#core/dashboard/pane/schema.ts';
import type { PaneRecords } from '#core/dashboard/pane/shared.ts';
import { usesOf } from '#core/dashboard/pane/uses.ts';
import { type PaneView, withParts } from '#core/dashboard/pane/view.ts';
import type { Dashboard } from '#core/dashboard/schema.ts';
import type { DataSet } from '#core/dataset/schema.ts';
import { meaningOf } from '#core/value/field/value.ts';
import type { DashboardView } from '#server/panes/shown.ts';
import { briefOf } from '../panes/briefs.ts';
import { idle } from '../panes/idle.tsx';
import { lookOf } from '../panes/looks.ts';
import { PaneBodyView } from '../panes/pane-body.tsx';
import type { PaneActions } from '../panes/view.ts';
import { Button } from '../ui/button.tsx';
import { ConfirmRemove } from '../ui/confirm-remove.tsx';
import { TextField } from '../ui/field.tsx';
import { ProblemMessage, Quiet } from '../ui/message.tsx';
import { Popover } from '../ui/popover.tsx';
import { SelectField } from '../ui/select-field.tsx';
import { Sentence } from '../ui/sentence.tsx';
import { lostProblem, useQuestion } from '../ui/use-question.ts';
import { BriefSlot } from './brief-slots.tsx';
import { CopyPane } from './copy-pane.tsx';
import type { OfferedDataSet } from './draft-page.tsx';
import { OthersHere } from './others-here.tsx';
import { SaveProblems } from './save-bar.tsx';
import { useDraft } from './use-draft.ts';

/** The scope of an address with a pane looked at in its own way. */
function searchWith(search: string, pane: string, view: PaneView): string {
  const params = new URLSearchParams(search);
  for (const [part, texts] of Object.entries(view))
    for (const text of texts) params.append(`${pane}.${part}`, text);
  return params.toString();
}

const lost: PaneResult = { state: 'failed', problem: lostProblem('trying the brief') };

interface Props {
  readonly view: DashboardView;
  readonly paneId: string;
  readonly revision: number;
  readonly dataSets: readonly OfferedDataSet[];
  /** Where its pane can be copied to. */
  readonly dashboards: readonly { readonly id: string; readonly title: string }[];
}

/** A brief is a sentence with slots: the pane itself on the left, live, the sentence on the right. */
export function BriefPage({ view, paneId, revision, dataSets, dashboards }: Props) {
  const { dashboard } = view;
  const { search } = useLocation();
  const navigate = useNavigate();
  const back = `/workroom/dashboards/${view.id}${search}`;
  const start = dashboard.panes.find(({ id }) => id === paneId) as Pane;
  const [pane, setPane] = useState<Pane>(start);
  /** How it is looked at while it is written. */
  const [look, setLook] = useState<PaneView>({});
  const actions = useMemo(
    (): PaneActions => ({ ...idle, look: (parts) => setLook((now) => withParts(now, parts)) }),
    [],
  );
  const { answer: result, busy, ask } = useQuestion<PaneResult>('/workroom/preview', lost);
  useEffect(() => {
    const timer = setTimeout(
      () => ask({ dashboard: view.id, pane, search: searchWith(search, pane.id, look) }),
      120,
    );
    return () => clearTimeout(timer);
  }, [pane, search, look, ask, view.id]);
  const { saving, change } = useDraft(view, revision, () => navigate(back));
  const definitions = useMemo(
    () => new Map(dataSets.map(({ id, definition }) => [id, definition])),
    [dataSets],
  );
  const names = useMemo(() => new Map(dataSets.map(({ id, name }) => [id, name])), [dataSets]);
  const draft: Dashboard = {
    ...dashboard,
    panes: dashboard.panes.map((each) => (each.id === paneId ? pane : each)),
  };
  const clock = useMemo(
    () => ({ now: new Date(view.now), zone: view.desk.zone }),
    [view.now, view.desk.zone],
  );
  const parts = briefParts(pane, { dashboard: draft, dataSets: definitions, clock });
  const { More } = briefOf(pane);
  return (
    <main id="main" tabIndex={-1} className="mx-auto max-w-[1680px] px-4 pt-7 pb-20 sm:px-7">
      <title>{`Brief of ${pane.title || 'a pane'} · Slate Glass`}</title>
      <header className="mb-6 flex flex-wrap items-center gap-3">
        <Link to={back} className="text-accent hover:underline">
          {dashboard.title}
        </Link>
        <span aria-hidden="true" className="text-muted">
          ›
        </span>
        <h1 className="text-lead font-strong">The brief of “{pane.title || 'Untitled'}”</h1>
        <span className="flex-1" />
        <OthersHere dashboard={view.id} />
        <CopyPane id={view.id} pane={pane} dashboards={dashboards} />
        <ConfirmRemove
          what={`“${pane.title || 'Untitled'}”`}
          goesWith={lostWith(paneId, dashboard, definitions)}
          canUndo
          onRemove={() => change({ ...dashboard, panes: dashboard.panes.filter(({ id }) => id !== paneId) })}
          trigger={<Button>Remove pane</Button>}
        />
        <Button look="main" disabled={saving.busy} onClick={() => change(draft)}>
          {saving.busy ? 'Saving …' : 'Save the brief'}
        </Button>
      </header>
      <SaveProblems saving={saving} zone={view.desk.zone} />
      <div className="grid gap-12 lg:grid-cols-[minmax(0,1.15fr)_minmax(0,1fr)]">
        <section
          aria-label="As readers will see it"
          className="flex min-h-96 min-w-0 flex-col border-t border-hair pt-3"
        >
          <h2 className="mb-2">{pane.title || 'Untitled'}</h2>
          <div
            aria-busy={busy}
            className={`flex min-h-0 flex-col ${lookOf(pane).fills === 'little' ? '' : 'h-[26rem]'} ${busy ? 'opacity-60' : ''}`}
          >
            {!result && <Quiet>Loading …</Quiet>}
            {result?.state === 'waiting' && <Quiet>{waitingWords(result)}</Quiet>}
            {result?.state === 'failed' && <ProblemMessage problem={result.problem} />}
            {result?.state === 'ready' && (
              <PaneBodyView
                pane={pane}
                body={result.body}
                clock={clock}
                view={look}
                recordOf={(id) => definitions.get(id) ?? {}}
                isPicked={() => false}
                offers={null}
                actions={actions}
                fileOf={() => ''}
                asTable={false}
              />
            )}
          </div>
        </section>
        <section aria-label="The brief" className="flex min-w-0 flex-col gap-6">
          {parts ? (
            <p className="text-title leading-relaxed text-slate">
              <Sentence
                parts={parts.map(({ text, slot }, index) => ({
                  key: slot ?? index,
                  text,
                  ...(slot
                    ? {
                        control: (
                          <SlotInPlace
                            text={text}
                            slot={slot}
                            pane={pane}
                            dashboard={draft}
                            dataSets={definitions}
                            names={names}
                            panes={draft.panes}
                            zone={view.desk.zone}
                            onChange={setPane}
                          />
                        ),
                      }
                    : {}),
                }))}
              />
            </p>
          ) : (
            <ProblemMessage
              problem={{
                code: 'missing',
                doing: 'reading the brief',
                why: 'its data set no longer exists',
                mend: 'Remove the pane, or make the data set again.',
              }}
            />
          )}
          <div className="grid gap-4 sm:grid-cols-2">
            <TextField
              label="Title"
              value={pane.title}
              maxLength={500}
              onChange={(event) => setPane({ ...pane, title: event.target.value })}
            />
            {More && <More pane={pane} dataSets={definitions} onChange={setPane} />}
            {'dataSet' in pane && <WaitsFor pane={pane} dataSets={definitions} onChange={setPane} />}
          </div>
        </section>
      </div>
    </main>
  );
}

function SlotInPlace({
  text,
  ...given
}: Omit<ComponentProps<typeof BriefSlot>, 'onDone'> & { readonly text: string }) {
  const [open, setOpen] = useState(false);
  return (
    <Popover
      label={`Choose: ${text}`}
      wide
      open={open}
      onOpenChange={setOpen}
      trigger={
        <button type="button" className="slot">
          {text}
        </button>
      }
    >
      <BriefSlot {...given} onDone={() => setOpen(false)} />
    </Popover>
  );
}

/** Whether the pane shows everything, or only what belongs to a record that the reader has picked. */
function WaitsFor<P extends Pane & PaneRecords>({
  pane,
  dataSets,
  onChange,
}: {
  pane: P;
  dataSets: ReadonlyMap<string, DataSet>;
  onChange: (pane: P) => void;
}) {
  const own = dataSets.get(pane.dataSet);
  const links = [...dataSets.values()].flatMap((other) => {
    const key = other.fields.find(({ name }) => name === other.key);
    const meaning = key && meaningOf(key);
    const refers =
      own !== undefined &&
      other !== own &&
      own.fields.some(
        (field) => meaning !== undefined && meaningOf(field) === meaning && field.name !== own.key,
      );
    return refers && meaning ? [{ meaning, one: other.noun.one }] : [];
  });
  if (links.length === 0 || usesOf(pane).every(({ follows }) => follows === 'picks')) return null;
  return (
    <SelectField
      label="Shows"
      value={pane.waitsFor ?? ''}
      onChange={(chosen) => {
        onChange({ ...pane, waitsFor: chosen || undefined });
      }}
      choices={[
        { value: '', words: 'all of them, until one is picked' },
        ...links.map(({ meaning, one }) => ({
          value: meaning,
          words: `only those of the ${one} that is picked`,
        })),
      ]}
    />
  );
}
