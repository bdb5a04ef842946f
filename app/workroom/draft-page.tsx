import Undo2 from 'lucide-react/icons/undo-2';
import { lazy, Suspense, useCallback, useEffect, useMemo, useState } from 'react';
import { Link, useFetcher, useLocation, useNavigate } from 'react-router';
import { type FlowProblem, lostWith } from '#core/dashboard/flow/check.ts';
import type { Question } from '#core/dashboard/pane/kind.ts';
import { questions, suggestPane } from '#core/dashboard/pane/suggest.ts';
import { usesOf } from '#core/dashboard/pane/uses.ts';
import type { DataSet } from '#core/dataset/schema.ts';
import { formatMoment } from '#core/value/format/format.ts';
import type { DashboardView, FirstResults } from '#server/panes/shown.ts';
import { DashboardPage } from '../desk/dashboard-page.tsx';
import { Button, IconButton } from '../ui/button.tsx';
import { ConfirmRemove } from '../ui/confirm-remove.tsx';
import { here } from '../ui/here.ts';
import { untilLoaded } from '../ui/load-again.ts';
import { Popover } from '../ui/popover.tsx';
import { SelectField } from '../ui/select-field.tsx';
import type { PublishAnswer } from './answers.ts';
import { OthersHere } from './others-here.tsx';
import { PublishButton } from './publish-button.tsx';
import { SaveProblems, SaveState } from './save-bar.tsx';
import { ScopeEditor } from './scope-editor.tsx';
import { useDraft } from './use-draft.ts';

const Arrange = lazy(() => import('./arrange.tsx').then((module) => ({ default: module.Arrange })));

export interface OfferedDataSet {
  readonly id: string;
  readonly name: string;
  readonly definition: DataSet;
  /** What its records come from; absent or null where that is another data set. */
  readonly source?: string | null;
}

interface Props {
  readonly view: DashboardView;
  readonly first: FirstResults;
  readonly revision: number;
  readonly published: number | null;
  /** What readers have is exactly this draft. */
  readonly isPublished: boolean;
  /** Names the draft and its data sets as they are on this page, so that nothing else is published. */
  readonly stamp: string;
  readonly deskSlug: string;
  readonly slug: string;
  readonly versions: readonly { number: number; at: string; by: string | null }[];
  readonly dataSets: readonly OfferedDataSet[];
  readonly flow: readonly FlowProblem[];
}

/** A dashboard while it is built: as readers will see it, with what changes it above. Every change is saved at once. */
export function DraftPage({
  view,
  first,
  revision,
  published,
  isPublished,
  stamp,
  deskSlug,
  slug,
  versions,
  dataSets,
  flow,
}: Props) {
  const { search } = useLocation();
  const navigate = useNavigate();
  const [arranging, setArranging] = useState(false);
  const [isTyping, setIsTyping] = useState(false);
  const [opening, setOpening] = useState<string | null>(null);
  const brief = useCallback(
    (pane: string) => `/workroom/dashboards/${view.id}/brief/${pane}${search}`,
    [view.id, search],
  );
  const onSaved = useCallback(() => {
    if (opening) navigate(brief(opening));
  }, [opening, navigate, brief]);
  const { saving, change, undo } = useDraft(view, revision, onSaved);
  const publishing = useFetcher<PublishAnswer>();
  const publish = (body: Record<string, string>): Promise<void> =>
    untilLoaded('page', () => publishing.submit(body, { method: 'post' }));
  const { dashboard } = view;
  const definitions = useMemo(
    () => new Map(dataSets.map(({ id, definition }) => [id, definition])),
    [dataSets],
  );
  const isEmpty = dashboard.panes.length === 0;
  const add = (question: Question, dataSet: OfferedDataSet): void => {
    const pane = suggestPane(question, dataSet.id, dataSet.definition, {
      panes: dashboard.panes,
      offered: dataSets.map(({ id, name, definition }) => ({ id, name, dataSet: definition })),
    });
    setOpening(pane.id);
    change({ ...dashboard, panes: [...dashboard.panes, pane] });
  };
  return (
    <DashboardPage
      view={view}
      first={first}
      briefLink={brief}
      arrange={
        arranging ? (
          <Suspense>
            <Arrange
              dashboard={dashboard}
              goesWith={(pane) => lostWith(pane, dashboard, definitions)}
              onChange={change}
            />
          </Suspense>
        ) : undefined
      }
    >
      <title>{`${dashboard.title}, draft · Slate Glass`}</title>
      <div
        role="toolbar"
        aria-label="Draft"
        className="no-print mb-4 flex flex-wrap items-center gap-2 border-y border-hair py-2"
      >
        <TitleField
          title={dashboard.title}
          onTyping={setIsTyping}
          onChange={(title) => change({ ...dashboard, title })}
        />
        <span className="flex flex-col text-small text-muted">
          {publishedWords(published, isPublished)}
          <OthersHere dashboard={view.id} />
        </span>
        <span className="flex-1" />
        <SaveState saving={saving} isChanged={isTyping} />
        <IconButton name="Undo" disabled={!undo || saving.busy} onClick={() => undo?.()}>
          <Undo2 className="size-4" />
        </IconButton>
        <AddPane dataSets={dataSets} last={dashboard.panes.flatMap(usesOf).at(-1)?.dataSet} onAdd={add} />
        <ScopeEditor dashboard={dashboard} dataSets={dataSets} onChange={change} />
        <Button
          onClick={() => setArranging(!arranging)}
          aria-pressed={arranging}
          disabled={dashboard.panes.length === 0}
        >
          {arranging ? 'Done arranging' : 'Arrange'}
        </Button>
        <Versions
          id={view.id}
          versions={versions}
          published={published}
          zone={view.desk.zone}
          onGo={(body) => void publish(body)}
        />
        <ConfirmRemove
          what={`“${dashboard.title}”`}
          goesWith={[
            published === null
              ? 'Nobody but you and other analysts has it.'
              : `Readers have version ${published} of it. They lose it, with every earlier version.`,
          ]}
          onRemove={() => void publish({ intent: 'remove' })}
          trigger={<Button look="quiet">Remove</Button>}
        />
        <PublishButton
          id={view.id}
          disabled={saving.busy || isEmpty || isPublished}
          title={
            isEmpty
              ? 'There is nothing on this dashboard yet. Add a pane first.'
              : isPublished
                ? 'Readers have exactly this already.'
                : undefined
          }
          busy={publishing.state !== 'idle'}
          onPublish={(remark) => void publish({ intent: 'publish', stamp, remark })}
        />
        {published !== null && (
          <Link to={`/desk/${deskSlug}/${slug}`} className="text-small text-accent hover:underline">
            See what readers get
          </Link>
        )}
      </div>
      <SaveProblems saving={saving} zone={view.desk.zone} />
      {publishing.data?.refused && publishing.state === 'idle' && (
        <div role="alert" className="my-3 border-l-3 border-slipping pl-3">
          <p className="font-strong text-slipping">This was not published.</p>
          <p>{publishing.data.refused}</p>
        </div>
      )}
      {flow.map(({ why }) => (
        <p key={why} className="mb-2 border-l-3 border-slipping pl-3 text-slate">
          {why}
        </p>
      ))}
      {isEmpty && (
        <div className="flex flex-col items-start gap-3 py-10">
          <p className="text-lead text-slate">An empty sheet. What should it answer first?</p>
          <AddPane dataSets={dataSets} last={undefined} onAdd={add} />
        </div>
      )}
    </DashboardPage>
  );
}

const publishedWords = (published: number | null, isPublished: boolean): string =>
  published === null
    ? 'Not published yet'
    : isPublished
      ? `Published: version ${published}`
      : `Changed since version ${published}, which readers have`;

function TitleField({
  title,
  onTyping,
  onChange,
}: {
  title: string;
  onTyping: (isTyping: boolean) => void;
  onChange: (title: string) => void;
}) {
  const [text, setText] = useState(title);
  useEffect(() => setText(title), [title]);
  const settle = (): void => {
    const next = text.trim();
    onTyping(false);
    if (next === '') setText(title);
    else if (next !== title) onChange(next);
  };
  return (
    <input
      aria-label="Title of the dashboard"
      value={text}
      maxLength={500}
      onChange={(event) => {
        setText(event.target.value);
        onTyping(event.target.value.trim() !== title);
      }}
      onBlur={settle}
      onKeyDown={(event) => event.key === 'Enter' && event.currentTarget.blur()}
      className="w-64 border-b border-line bg-transparent px-1 font-strong"
    />
  );
}

/** A pane starts from a question, and from the records it is asked of. */
function AddPane({
  dataSets,
  last,
  onAdd,
}: {
  dataSets: readonly OfferedDataSet[];
  /** The data set that was used last. */
  last: string | undefined;
  onAdd: (question: Question, dataSet: OfferedDataSet) => void;
}) {
  const [chosen, setId] = useState<string | null>(null);
  const id = chosen ?? last ?? dataSets[0]?.id;
  const groups = [...new Set(dataSets.map(({ source }) => source ?? null))].sort((a, b) =>
    a === null ? 1 : b === null ? -1 : a.localeCompare(b, 'en'),
  );
  const [open, setOpen] = useState(false);
  const dataSet = dataSets.find((each) => each.id === id) ?? dataSets[0];
  return (
    <Popover label="Add a pane" open={open} onOpenChange={setOpen} trigger={<Button>Add a pane</Button>}>
      {dataSet ? (
        <div className="flex flex-col gap-3">
          <SelectField
            label="About"
            value={dataSet.id}
            onChange={setId}
            choices={groups.flatMap((group) =>
              dataSets
                .filter(({ source }) => (source ?? null) === group)
                .map(({ id, name }) => ({
                  value: id,
                  words: name,
                  group: group ?? 'Made from other data sets',
                })),
            )}
          />
          <ul>
            {questions.map((question) => (
              <li key={question.ask}>
                <button
                  type="button"
                  className="w-full border-b border-hair py-1.5 text-left hover:bg-wash hover:text-accent"
                  onClick={() => {
                    setOpen(false);
                    onAdd(question, dataSet);
                  }}
                >
                  <span className="font-strong">{question.words}</span>
                  <span className="block text-small text-muted">{question.leads}</span>
                </button>
              </li>
            ))}
          </ul>
        </div>
      ) : (
        <p>
          There is no data set to ask yet.{' '}
          <Link to="/workroom/data-sets/new" className="text-accent underline">
            Make one
          </Link>
          .
        </p>
      )}
    </Popover>
  );
}

function Versions({
  id,
  versions,
  published,
  zone,
  onGo,
}: {
  id: string;
  versions: Props['versions'];
  published: number | null;
  zone: string;
  onGo: (body: Record<string, string>) => void;
}) {
  return (
    <Popover label="Published versions" trigger={<Button>Versions</Button>}>
      <ul className="flex flex-col">
        {versions.map(({ number, at, by }) => (
          <li key={number} className="flex items-center gap-2 border-b border-hair py-1.5">
            <span className="flex-1">
              Version {number}
              <span className="block text-small text-muted">
                {formatMoment(at, zone)}
                {by && `, ${by}`}
              </span>
            </span>
            {number === published ? (
              <span className="text-small text-muted">readers get this</span>
            ) : (
              <Button onClick={() => onGo({ intent: 'back', version: String(number) })}>
                Give readers this
              </Button>
            )}
          </li>
        ))}
      </ul>
      <p className="mt-2 flex flex-wrap items-center gap-x-3">
        <Link to={`/workroom/dashboards/${id}/versions`} className="text-accent hover:underline">
          What each changed
        </Link>
        <a
          href={here(`/workroom/definitions/file?dashboard=${id}`)}
          download
          className="text-accent hover:underline"
        >
          The draft as a file
        </a>
        {published !== null && (
          <Button look="quiet" onClick={() => onGo({ intent: 'withdraw' })}>
            Unpublish
          </Button>
        )}
      </p>
    </Popover>
  );
}
