import { useCallback, useEffect, useRef, useState } from 'react';
import type { FoundTable } from '#core/dataset/found.ts';
import { startOf as beforeStepsOf } from '#core/dataset/outcome.ts';
import type { DataSet, Request } from '#core/dataset/schema.ts';
import type { World } from '#core/dataset/world.ts';
import type { Problem } from '#core/value/problem/problem.ts';
import { capital } from '#core/words/capital.ts';
import type { SourceTraits } from '#server/sources/traits.ts';
import type { FieldChoice, StoredDataSet } from '#server/store/data-sets.ts';
import type { Trial } from '#sources/kind.ts';
import { Button } from '../ui/button.tsx';
import { plainChoices } from '../ui/choice.tsx';
import { TextField } from '../ui/field.tsx';
import { LeaveGuard } from '../ui/leave-guard.tsx';
import { ProblemMessage } from '../ui/message.tsx';
import { Section } from '../ui/page.tsx';
import { SelectField } from '../ui/select-field.tsx';
import { beforeSteps, startOf, withRequest, withTrial } from './data-set-state.ts';
import { FieldList } from './field-list.tsx';
import { KeepEditor } from './keep-editor.tsx';
import { Meanings } from './meanings.tsx';
import { MeasureList, type MeasureUses } from './measure-list.tsx';
import { LineSample } from './requests/log/line-sample.tsx';
import type { RequestProps } from './requests/screen.ts';
import { screenOf, startsOf } from './requests/screens.ts';
import { tableDataSet } from './requests/table/start.tsx';
import { SampleTable } from './sample-table.tsx';
import { SaveProblems, SaveState } from './save-bar.tsx';
import { useSave } from './use-save.ts';
import { useTry } from './use-try.ts';
import { ValuesFrom } from './value-pick.tsx';

interface Props {
  readonly id: string;
  readonly source: string;
  readonly traits: SourceTraits;
  readonly tables: readonly FoundTable[];
  readonly problem: Problem | null;
  readonly startTable: string | null;
  readonly stored: StoredDataSet | null;
  /** Of the desk: schedules by the clock are in it. */
  readonly zone: string;
  /** The data sets that its steps refer to. */
  readonly world?: World;
  /** What the values of its inputs can be among. */
  readonly choices: readonly FieldChoice[];
  /** The panes that show its measures. */
  readonly uses?: MeasureUses;
  /** What a new one begins as. */
  readonly begun?: { readonly name: string; readonly definition: DataSet } | null;
}

const noWorld: World = new Map();

/** What decides how an answer looks (see `RequestScreen`). */
const looksOf = (request: Request): string => screenOf(request).looks?.(request) ?? request.kind;

/** Asks, tries, names: a data set on one page, with its real records beside it. */
export function DataSetEditor({
  id,
  source,
  traits,
  tables,
  problem,
  startTable,
  stored,
  zone,
  world = noWorld,
  choices,
  uses = {},
  begun = null,
}: Props) {
  const [definition, setDefinition] = useState<DataSet | null>(
    () =>
      stored?.definition ??
      begun?.definition ??
      tableDataSet(source, tables, startTable) ??
      startOf(source, traits),
  );
  const [name, setName] = useState(
    stored?.name ??
      begun?.name ??
      (definition && screenOf(definition.request).isSaidBySource ? capital(definition.noun.many) : ''),
  );
  const [tried, setTried] = useState<{ text: string; tried: Trial } | null>(null);
  const { answer, busy, ask, stop } = useTry();
  const askedAbout = useRef('');
  const written = JSON.stringify({ name, definition });
  const [safe, setSafe] = useState(written);
  const [isTouched, setIsTouched] = useState(false);
  const sent = useRef(written);
  const onSaved = useCallback(() => setSafe(sent.current), []);
  const saving = useSave(
    stored ? `/workroom/data-sets/${id}/save` : '/workroom/data-sets/add',
    stored?.revision ?? 0,
    onSaved,
  );
  useEffect(() => {
    if (!answer || !('tried' in answer)) return;
    setTried({ text: JSON.stringify(answer.tried.request), tried: answer.tried });
    const { isSaidBySource, isOnlyKept } = screenOf(answer.tried.request);
    const isDescribed = !isSaidBySource && !isOnlyKept;
    // What was described again since it was asked about is not undone by the answer.
    setDefinition((now) =>
      now && isDescribed && JSON.stringify(now.request) === askedAbout.current
        ? beforeSteps(now, world, (before) => withTrial(before, answer.tried))
        : now,
    );
  }, [answer, world]);
  // Where the records are and how the rest is asked for is found out again whenever the call is another than was looked at.
  const lookedAt = useRef(stored ? looksOf(stored.definition.request) : undefined);
  const tryIt = (now: DataSet, keep = false): void => {
    askedAbout.current = JSON.stringify(now.request);
    const call = looksOf(now.request);
    const find = !keep && call !== lookedAt.current;
    if (find) lookedAt.current = call;
    ask({ definition: now, keptAs: screenOf(now.request).isOnlyKept ? id : undefined, find });
  };
  const choose = (next: DataSet | null): void => {
    setDefinition(next);
    setTried(null);
    if (!next || !screenOf(next.request).isSaidBySource) return;
    if (!name) setName(capital(next.noun.many));
    tryIt(next);
  };
  // biome-ignore lint/correctness/useExhaustiveDependencies: the first records are fetched once, when the page opens
  useEffect(() => {
    if (!definition) return;
    const { elsewhere, isSaidBySource } = screenOf(definition.request);
    if (!elsewhere && (isSaidBySource || stored || traits.begins?.keep)) tryIt(definition);
  }, []);
  if (!definition)
    return (
      <div className="flex flex-col gap-4">
        {problem && <ProblemMessage problem={problem} />}
        <div className="grid gap-10 lg:grid-cols-2">
          {startsOf(traits.requests).map((Start) => (
            <Start key={Start.name} source={source} tables={tables} onStart={choose} />
          ))}
        </div>
      </div>
    );
  const { request } = definition;
  // What a first look at the source finds out by itself is no work of a person's.
  const touch = (): void => setIsTouched(true);
  const {
    Call,
    Answer,
    mayTry = () => true,
    isKnown,
    isSaidBySource,
    isOnlyKept,
    elsewhere,
  } = screenOf(request);
  const isTried = isKnown || (definition.fields.length > 0 && request.columns.length > 0);
  const described: RequestProps<Request> = {
    request,
    definition,
    world,
    tables,
    choices,
    tried: tried?.tried ?? null,
    onChange: (change) => setDefinition((now) => now && change(now)),
    onRequest: (next, again) => {
      const changed = withRequest(definition, next);
      setDefinition(changed);
      if (again) tryIt(changed, true);
    },
    onChoose: choose,
  };
  return (
    <div className="flex flex-col gap-6" onPointerDownCapture={touch} onKeyDownCapture={touch}>
      <LeaveGuard what="The changes" when={isTouched && written !== safe && !saving.busy} />
      {problem && <ProblemMessage problem={problem} />}
      <div className="flex flex-wrap items-end gap-4 border-b border-line pb-4">
        <div className="w-60">
          <TextField
            label="Name"
            value={name}
            maxLength={500}
            onChange={(event) => setName(event.target.value)}
          />
        </div>
        <div className="w-40">
          <TextField
            label="One record is one"
            value={definition.noun.one}
            maxLength={200}
            onChange={(event) =>
              setDefinition({ ...definition, noun: { ...definition.noun, one: event.target.value } })
            }
          />
        </div>
        <div className="w-40">
          <TextField
            label="Several are"
            value={definition.noun.many}
            maxLength={200}
            onChange={(event) =>
              setDefinition({ ...definition, noun: { ...definition.noun, many: event.target.value } })
            }
          />
        </div>
        {!isSaidBySource && definition.fields.length > 0 && (
          <SelectKey definition={definition} onChange={setDefinition} />
        )}
        <span className="flex-1" />
        <SaveState saving={saving} isChanged={written !== safe} />
        <Button disabled={!mayTry(request)} onClick={() => (busy ? stop() : tryIt(definition))}>
          {busy ? 'Stop trying' : 'Try it'}
        </Button>
        <Button
          look="main"
          disabled={saving.busy || !isTried}
          onClick={() => {
            sent.current = written;
            saving.save({ id, name, definition });
          }}
        >
          {stored ? 'Save' : 'Save data set'}
        </Button>
      </div>
      <SaveProblems saving={saving} />
      {Call && <Call {...described} />}
      <div className="grid gap-x-10 gap-y-6 xl:grid-cols-[minmax(0,34rem)_minmax(0,1fr)]">
        <div className="flex min-w-0 flex-col gap-6">
          {Answer && <Answer {...described} />}
          {definition.fields.length > 0 && (
            <FieldList definition={definition} id={id} world={world} onChange={setDefinition} />
          )}
          {stored && !isSaidBySource && <Meanings definition={definition} id={id} onChange={setDefinition} />}
          {definition.fields.length > 0 && (
            <ValuesFrom id={id} definition={definition} zone={zone}>
              <MeasureList definition={definition} uses={uses} onChange={setDefinition} />
            </ValuesFrom>
          )}
          {definition.fields.length > 0 && !isOnlyKept && !elsewhere && (
            <KeepEditor definition={definition} traits={traits} zone={zone} onChange={setDefinition} />
          )}
        </div>
        <div className="min-w-0 self-start xl:sticky xl:top-16">
          <Section
            title="Its records"
            note={definition.steps?.length ? 'As the source gives them, before the steps.' : undefined}
          >
            {answer && !answer.ok && !busy && <ProblemMessage problem={answer.problem} />}
            {tried?.tried.lines && <LineSample lines={tried.tried.lines} />}
            {tried?.tried.mixed?.map((mixed) => (
              <p key={mixed.name} className="mb-2 text-small text-slipping">
                All but {mixed.others} of “{mixed.name}” are {mixed.type}: such as “
                {mixed.examples.slice(0, 3).join('”, “')}”. It stays text, so that nothing is lost.
              </p>
            ))}
            {tried && (answer?.ok ?? true) && (
              <SampleTable tried={tried.tried} zone={zone} labels={beforeStepsOf(definition)} />
            )}
            {!tried && !answer && <p className="text-muted">{elsewhere ?? 'Try it, to see real records.'}</p>}
          </Section>
        </div>
      </div>
    </div>
  );
}

/** Only a table says what identifies a record; of others it is proposed, in plain sight, and can be said otherwise. */
function SelectKey({ definition, onChange }: { definition: DataSet; onChange: (next: DataSet) => void }) {
  return (
    <div className="w-48">
      <SelectField
        label="What identifies a record"
        value={definition.key ?? ''}
        onChange={(chosen) => {
          const { key: _, ...rest } = definition;
          onChange(chosen ? { ...rest, key: chosen } : rest);
        }}
        choices={[
          { value: '', words: 'Nothing' },
          ...plainChoices(definition.fields.map(({ name }) => name)),
        ]}
      />
    </div>
  );
}
