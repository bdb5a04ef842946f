import Redo2 from 'lucide-react/icons/redo-2';
import Undo2 from 'lucide-react/icons/undo-2';
import { useEffect, useMemo, useState } from 'react';
import { keepProblem } from '#core/dataset/keep-problem.ts';
import { usualKeep } from '#core/dataset/kept/schema.ts';
import { lostNeeds, withoutLost } from '#core/dataset/lost.ts';
import { startOf, withOutcome } from '#core/dataset/outcome.ts';
import type { DataSet } from '#core/dataset/schema.ts';
import { carryOn } from '#core/dataset/step/follow-names.ts';
import { freeStepId } from '#core/dataset/step/free-id.ts';
import { shape } from '#core/dataset/step/kinds.ts';
import type { Step, StepKindName } from '#core/dataset/step/schema.ts';
import type { Cell } from '#core/value/field/value.ts';
import { cellText } from '#core/value/field/value.ts';
import { counted } from '#core/value/format/counted.ts';
import { formatMoment, formatNumber } from '#core/value/format/format.ts';
import type { StoredDataSet } from '#server/store/data-sets.ts';
import { Pager } from '../../panes/pager.tsx';
import { Button, IconButton } from '../../ui/button.tsx';
import { LeaveGuard } from '../../ui/leave-guard.tsx';
import { ProblemMessage } from '../../ui/message.tsx';
import { SaveProblems, SaveState } from '../save-bar.tsx';
import { useSave } from '../use-save.ts';
import { ValuesFrom } from '../value-pick.tsx';
import { newStep } from './new-step.ts';
import { RecordsTable } from './records-table.tsx';
import { StepForm } from './step-form.tsx';
import { StepList } from './step-list.tsx';
import { TraceSheet } from './trace-sheet.tsx';
import { useHistory } from './use-history.ts';
import { useFigures, useProfiles, useShape } from './use-shape.ts';
import { mayBeAlike, stillAccepted, type Warning } from './warnings.ts';
import { warningsOf } from './warnings-of.ts';

const awaitedMs = 1500;
const record = { one: 'record', many: 'records' };

interface Props {
  readonly stored: StoredDataSet;
  readonly sourceName: string;
  readonly others: readonly { readonly id: string; readonly name: string; readonly definition: DataSet }[];
  readonly zone: string;
}

/** What is edited here, and can be undone. */
interface Edited {
  readonly steps: readonly Step[];
  readonly accepted: readonly string[];
}

const editedOf = ({ steps = [], acceptedWarnings = [] }: DataSet): Edited => ({
  steps,
  accepted: acceptedWarnings,
});

/** The steps of a data set beside the records that come of them. */
export function StepsPage({ stored, sourceName, others, zone }: Props) {
  const { id } = stored;
  const history = useHistory<Edited>(editedOf(stored.definition));
  const { steps, accepted } = history.now;
  const definition = useMemo<DataSet>(
    () => ({ ...stored.definition, start: [...startOf(stored.definition)], steps: [...steps] }),
    [stored.definition, steps],
  );
  const world = useMemo(() => new Map(others.map((each) => [each.id, each.definition])), [others]);
  const names = useMemo(() => new Map(others.map((each) => [each.id, each.name])), [others]);
  const [selected, setSelected] = useState(steps.length);
  const [page, setPage] = useState(1);
  const [added, setAdded] = useState<string | null>(null);
  const [traced, setTraced] = useState<readonly Cell[] | null>(null);
  const saving = useSave(`/workroom/data-sets/${id}/save`, stored.revision);
  const shaped = useMemo(() => shape(startOf(definition), steps, world), [definition, steps, world]);
  const firstProblem = shaped.problems.findIndex((problem) => problem !== null);
  const doable = firstProblem < 0 ? steps.length : firstProblem;
  const shown = Math.min(selected, doable);
  const answer = useShape(id, definition, { kind: 'records', steps: shown, page });
  const fields = shaped.fields[shown] ?? [];
  const outcomes = useFigures(id, definition, doable, answer.found ? 'found' : '');
  const figures = outcomes.map((each) => (each && 'failed' in each ? undefined : each));
  const failures = outcomes.map((each) => (each && 'failed' in each ? each.failed : null));
  const profiles = useProfiles(id, definition, shown, answer.found ? fields.map(({ name }) => name) : []);
  // What a step refuses over all the records is no fault of the source, and does not pass.
  const refusedAt = failures.findIndex((each, at) => at > 0 && each?.code === 'bad-request');
  const carried = useMemo(
    () =>
      carryOn(
        shaped,
        steps,
        [stored.definition.steps ?? [], ...history.past.map((past) => past.steps)],
        world,
      ),
    [shaped, steps, stored.definition.steps, history.past, world],
  );
  const alike = useShape(
    id,
    definition,
    mayBeAlike([...profiles.values()], fields) ? { kind: 'alike', steps: shown } : null,
  );
  const warnings = warningsOf({
    definition,
    steps,
    shaped,
    figures,
    failures,
    profiles,
    shown,
    carried,
    zone,
    alike: alike.busy ? undefined : alike.found,
  });
  const traceRecord = traced
    ? Object.fromEntries(fields.map(({ name }, at) => [name, cellText(traced[at] ?? null)]))
    : null;
  const trace = useShape(
    id,
    definition,
    traceRecord ? { kind: 'trace', steps: shown, record: traceRecord } : null,
  );
  const isChanged = JSON.stringify(history.now) !== JSON.stringify(editedOf(stored.definition));
  const select = (to: number): void => {
    setSelected(to);
    setPage(1);
  };
  const put = (next: readonly Step[], to: number, about = ''): void => {
    history.put({ steps: next, accepted: stillAccepted(accepted, next) }, about);
    if (to !== selected) select(to);
  };
  const insert = (step: Step, at: number): void => {
    put([...steps.slice(0, at), step, ...steps.slice(at)], at + 1);
    setAdded(step.id);
  };
  const add = (kind: StepKindName, at: number, about?: string): void =>
    insert(newStep(kind, freeStepId(steps), shaped.fields[at] ?? fields, { world, own: id }, about), at);
  const mend = ({ mend: how }: Warning, at: number): void => {
    if (!how) return;
    if ('steps' in how) {
      put(how.steps, selected);
      return;
    }
    if ('step' in how) {
      const place = steps.findIndex((step) => step.id === how.step.id);
      put(
        steps.map((step, index) => (index === place ? how.step : step)),
        place + 1,
      );
      return;
    }
    let next = steps;
    for (const [index, step] of how.add.entries())
      next = [...next.slice(0, at + index), { ...step, id: freeStepId(next) }, ...next.slice(at + index)];
    put(next, at + how.add.length);
  };
  const { undo, redo } = history;
  useEffect(() => {
    const onKey = (event: KeyboardEvent): void => {
      const isTyping =
        event.target instanceof HTMLElement && event.target.closest('input, textarea, .cm-editor');
      if (isTyping || !(event.ctrlKey || event.metaKey) || event.key.toLowerCase() !== 'z') return;
      const act = event.shiftKey ? redo : undo;
      if (!act) return;
      event.preventDefault();
      act();
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  }, [undo, redo]);
  const step = steps[selected - 1];
  const before = Math.max(0, Math.min(selected - 1, doable));
  const outcome = useMemo(() => withOutcome(definition, world), [definition, world]);
  const lost = isChanged && firstProblem < 0 ? lostNeeds(outcome) : [];
  const save = (next: DataSet): void =>
    saving.save({
      id,
      name: stored.name,
      definition: { ...next, acceptedWarnings: accepted.length > 0 ? [...accepted] : undefined },
    });
  const kept: DataSet = { ...stored.definition, keep: usualKeep };
  // Records that are to be kept are there a moment later.
  const { problem, again } = answer;
  const isAwaited = problem?.code === 'missing' && definition.keep !== undefined;
  useEffect(() => {
    if (!isAwaited) return;
    const timer = setInterval(again, awaitedMs);
    return () => clearInterval(timer);
  }, [isAwaited, again]);
  return (
    <>
      <div className="mb-3 flex flex-wrap items-center gap-2">
        <IconButton name="Undo" disabled={!undo} onClick={() => undo?.()}>
          <Undo2 className="size-4" />
        </IconButton>
        <IconButton name="Redo" disabled={!redo} onClick={() => redo?.()}>
          <Redo2 className="size-4" />
        </IconButton>
        <p className="figures min-w-0 flex-1 text-small text-muted" role="status">
          {answer.found && (
            <>
              {shown === 0 ? 'As the source gives them' : `After step ${shown} of ${steps.length}`}
              {shown < selected && ', the last that can be done'} · {counted(fields.length, 'field')} ·{' '}
              {formatNumber(String(Math.round(answer.found.took)), 0)} ms · as of{' '}
              {formatMoment(answer.found.trueAt, zone)}
            </>
          )}
          {!answer.found && answer.busy && 'Reading the records …'}
        </p>
        <SaveState saving={saving} isChanged={isChanged} />
        <Button
          look="main"
          disabled={saving.busy || !isChanged || firstProblem >= 0 || refusedAt > 0 || lost.length > 0}
          onClick={() => save(withoutLost(outcome))}
        >
          Save steps
        </Button>
      </div>
      <LeaveGuard what="The steps" when={isChanged && !saving.busy} />
      <SaveProblems saving={saving} zone={zone} />
      {isChanged && refusedAt > 0 && (
        <p role="alert" className="my-3 border-l-3 border-broken pl-3 text-small text-broken">
          Step {refusedAt} cannot be done over all the records, so the steps cannot be saved:{' '}
          {failures[refusedAt]?.why}.
        </p>
      )}
      {lost.length > 0 && (
        <div
          role="alert"
          className="my-3 flex flex-col items-start gap-2 border-l-3 border-slipping pl-3 text-small"
        >
          <ul className="text-slipping">
            {lost.map((each) => (
              <li key={each}>{each}.</li>
            ))}
          </ul>
          <Button onClick={() => save(withoutLost(outcome))}>
            Save without {lost.length === 1 ? 'it' : 'them'}
          </Button>
        </div>
      )}
      <div className="grid gap-x-8 gap-y-6 lg:grid-cols-[23rem_minmax(0,1fr)]">
        <div className="min-w-0 lg:max-h-[calc(100vh-13rem)] lg:overflow-auto">
          <StepList
            definition={definition}
            sourceName={sourceName}
            fields={shaped.fields}
            problems={shaped.problems}
            figures={figures}
            warnings={warnings}
            world={world}
            names={names}
            selected={selected}
            onSelect={select}
            onSteps={(next, to) => put(next, to)}
            onAdd={add}
            onMend={mend}
            accepted={accepted}
            onAccept={(next) => history.put({ steps, accepted: next })}
            onKeep={keepProblem(kept) === null && !saving.busy ? () => save(kept) : undefined}
            added={added}
            form={
              step && (
                <ValuesFrom id={id} definition={definition} steps={before} zone={zone}>
                  <StepForm
                    key={step.id}
                    step={step}
                    isFresh={step.id === added}
                    fields={shaped.fields[selected - 1] ?? []}
                    id={id}
                    definition={definition}
                    at={before}
                    world={world}
                    names={names}
                    onChange={(next) =>
                      put(
                        steps.map((each) => (each.id === next.id ? next : each)),
                        selected,
                        next.id,
                      )
                    }
                  />
                </ValuesFrom>
              )
            }
          />
        </div>
        <div className="min-w-0">
          {isAwaited ? (
            <p className="text-muted" role="status">
              The records are being fetched for the first time …
            </p>
          ) : answer.problem ? (
            <div className="flex flex-col items-start gap-3">
              <ProblemMessage problem={answer.problem} />
              <Button onClick={answer.again}>Try again</Button>
            </div>
          ) : answer.found ? (
            <>
              <RecordsTable
                fields={answer.found.fields}
                records={answer.found.records}
                profiles={profiles}
                zone={zone}
                busy={answer.busy}
                onAdd={(kind, about) => add(kind, shown, about)}
                onTrace={setTraced}
              />
              <div className="mt-2">
                <Pager
                  page={page}
                  size={answer.found.size}
                  total={failures[shown] ? undefined : (figures[shown]?.records ?? null)}
                  more={answer.found.more}
                  shown={answer.found.records.length}
                  noun={record}
                  onPage={setPage}
                />
              </div>
            </>
          ) : (
            <div className="h-96 bg-well" />
          )}
        </div>
      </div>
      {traceRecord && (
        <TraceSheet
          asked={trace}
          definition={definition}
          world={world}
          sourceName={sourceName}
          zone={zone}
          onClose={() => setTraced(null)}
        />
      )}
    </>
  );
}
