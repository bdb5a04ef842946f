import ArrowDown from 'lucide-react/icons/arrow-down';
import ArrowUp from 'lucide-react/icons/arrow-up';
import Copy from 'lucide-react/icons/copy';
import Eye from 'lucide-react/icons/eye';
import EyeOff from 'lucide-react/icons/eye-off';
import Plus from 'lucide-react/icons/plus';
import Trash2 from 'lucide-react/icons/trash-2';
import { type ReactNode, useRef, useState } from 'react';
import type { DataSet } from '#core/dataset/schema.ts';
import { freeStepId } from '#core/dataset/step/free-id.ts';
import { notAtSource } from '#core/dataset/step/kinds.ts';
import type { Step, StepKindName } from '#core/dataset/step/schema.ts';
import type { World } from '#core/dataset/world.ts';
import type { Field } from '#core/value/field/field.ts';
import { formatNumber } from '#core/value/format/format.ts';
import { capital } from '#core/words/capital.ts';
import { calledAt, stepWords } from '#core/words/step.ts';
import type { StepFigures } from '#server/shape/records.ts';
import { Button, IconButton } from '../../ui/button.tsx';
import { useFocusOnArrival } from '../../ui/focus.ts';
import { Popover } from '../../ui/popover.tsx';
import { offers } from './new-step.ts';
import { splitWarnings, type Warning } from './warnings.ts';

interface Props {
  readonly definition: DataSet;
  readonly sourceName: string;
  /** The fields before each step, and last those after all. */
  readonly fields: readonly (readonly Field[])[];
  readonly problems: readonly (string | null)[];
  readonly figures: readonly (StepFigures | undefined)[];
  readonly warnings: readonly (readonly Warning[])[];
  readonly world: World;
  readonly names: ReadonlyMap<string, string>;
  /** How many steps are done in what is shown. */
  readonly selected: number;
  readonly onSelect: (steps: number) => void;
  readonly onSteps: (steps: Step[], selected: number) => void;
  readonly onAdd: (kind: StepKindName, at: number) => void;
  readonly onMend: (warning: Warning, at: number) => void;
  /** What the warnings that are accepted are about. */
  readonly accepted: readonly string[];
  readonly onAccept: (accepted: string[]) => void;
  /** Keeps the records, for the steps that their source cannot do; absent where they cannot be kept. */
  readonly onKeep: (() => void) | undefined;
  readonly form: ReactNode;
  /** The step that has just been added: the hands go on in its form. */
  readonly added: string | null;
}

const whole = (text: string | undefined): string => (text === undefined ? '…' : formatNumber(text, 0));

/** The steps as sentences, each with the records before and after it; the chosen one is open. */
export function StepList(props: Props) {
  const { definition, sourceName, figures, selected, onSelect, onAdd } = props;
  const steps = definition.steps ?? [];
  const most = Math.max(1, ...figures.map((each) => Number(each?.records ?? 0)));
  return (
    <ol className="flex flex-col" aria-label="Steps">
      <li className={item(selected === 0)}>
        <button
          type="button"
          className="w-full px-3 py-2 text-left"
          aria-current={selected === 0 ? 'step' : undefined}
          onClick={() => onSelect(0)}
        >
          <span className="block">
            {capital(calledAt(steps, 0, definition.noun.many))} from {sourceName}
          </span>
          <Records before={undefined} after={figures[0]} most={most} />
        </button>
        {selected === 0 && <Warnings {...props} list={props.warnings[0] ?? []} at={0} />}
      </li>
      {steps.map((step, index) => (
        <OneStep key={step.id} {...props} step={step} index={index} most={most} />
      ))}
      <li className="mt-3">
        <AddStep
          onAdd={(kind) => onAdd(kind, steps.length)}
          trigger={
            <Button look="main">
              <Plus className="size-4" /> Add a step
            </Button>
          }
        />
      </li>
    </ol>
  );
}

const cannotKeep = ({ request, inputs }: DataSet): string =>
  request.kind === 'of'
    ? 'Keep those of the data set it is made of.'
    : inputs.length > 0
      ? 'Records that depend on an input cannot be kept.'
      : 'They cannot be kept.';

const item = (isSelected: boolean): string =>
  `border-b border-hair border-l-3 ${isSelected ? 'border-l-accent bg-sheet' : 'border-l-transparent hover:bg-wash'}`;

function OneStep({ step, index, most, ...props }: Props & { step: Step; index: number; most: number }) {
  const { definition, fields, problems, figures, warnings, world, names, selected, form, added } = props;
  const { onSelect, onSteps, onAdd, onKeep } = props;
  const steps = definition.steps ?? [];
  const isSelected = selected === index + 1;
  const problem = problems[index];
  const words = stepWords(step, {
    before: fields[index] ?? [],
    world,
    many: calledAt(steps, index, definition.noun.many),
    names,
  });
  const fetched = definition.keep ? null : notAtSource(step);
  const moved = (to: number): void => {
    const next = steps.filter((_, at) => at !== index);
    next.splice(to, 0, step);
    onSteps(next, to + 1);
  };
  return (
    <li
      className={item(isSelected)}
      onKeyDown={(event) => {
        // In a form the same keys belong to its fields.
        const isField = (event.target as HTMLElement).closest('input, select, textarea, .cm-editor');
        if (isField || !event.altKey || (event.key !== 'ArrowUp' && event.key !== 'ArrowDown')) return;
        event.preventDefault();
        const to = event.key === 'ArrowUp' ? index - 1 : index + 1;
        if (to >= 0 && to < steps.length) moved(to);
      }}
    >
      <button
        type="button"
        aria-current={isSelected ? 'step' : undefined}
        aria-expanded={isSelected}
        className={`w-full px-3 py-2 text-left ${step.off ? 'text-muted line-through' : ''}`}
        onClick={() => onSelect(index + 1)}
      >
        <span className="line-clamp-3">{words}</span>
        {problem ? (
          <span className="mt-0.5 block text-small text-broken">{problem}</span>
        ) : (
          <Records before={figures[index]} after={figures[index + 1]} most={most} isOff={step.off ?? false} />
        )}
      </button>
      {fetched && (
        <div className="mx-3 mb-2 border-l-3 border-slipping pl-2 text-small">
          <p className="text-slipping">
            The source cannot do this: {fetched}. Its records are fetched for it, at most 100,000 at a time.
          </p>
          {onKeep ? (
            <Button className="mt-1" onClick={onKeep}>
              Keep the records
            </Button>
          ) : (
            <p className="text-slipping">{cannotKeep(definition)}</p>
          )}
        </div>
      )}
      <Warnings {...props} list={warnings[index + 1] ?? []} at={index + 1} />
      {isSelected && (
        <div className="px-3 pb-3">
          <div className="mb-2 flex gap-0.5 border-t border-hair pt-1" role="toolbar" aria-label="This step">
            <IconButton name="Move up" disabled={index === 0} onClick={() => moved(index - 1)}>
              <ArrowUp className="size-4" />
            </IconButton>
            <IconButton
              name="Move down"
              disabled={index === steps.length - 1}
              onClick={() => moved(index + 1)}
            >
              <ArrowDown className="size-4" />
            </IconButton>
            <IconButton
              name={step.off ? 'Use it again' : 'Skip'}
              onClick={() => {
                const { off, ...rest } = step;
                const next = (off ? rest : { ...rest, off: true }) as Step;
                onSteps(
                  steps.map((each, at) => (at === index ? next : each)),
                  index + 1,
                );
              }}
            >
              {step.off ? <Eye className="size-4" /> : <EyeOff className="size-4" />}
            </IconButton>
            <IconButton
              name="Copy it"
              onClick={() => {
                const copy = { ...step, id: freeStepId(steps) } as Step;
                onSteps([...steps.slice(0, index + 1), copy, ...steps.slice(index + 1)], index + 2);
              }}
            >
              <Copy className="size-4" />
            </IconButton>
            <AddStep
              onAdd={(kind) => onAdd(kind, index + 1)}
              trigger={
                <IconButton name="Insert a step after it">
                  <Plus className="size-4" />
                </IconButton>
              }
            />
            <span className="flex-1" />
            <IconButton
              name="Remove it"
              onClick={() =>
                onSteps(
                  steps.filter((_, at) => at !== index),
                  index,
                )
              }
            >
              <Trash2 className="size-4" />
            </IconButton>
          </div>
          <StepFields isNew={added === step.id}>{form}</StepFields>
        </div>
      )}
    </li>
  );
}

/** A step's form. That of a new step takes the focus as it appears, so that nobody has to go and find it. */
function StepFields({ isNew, children }: { isNew: boolean; children: ReactNode }) {
  const place = useRef<HTMLDivElement>(null);
  useFocusOnArrival(place, isNew);
  return <div ref={place}>{children}</div>;
}

/** Records before and after, a thin bar of how many are left, and how long it took to work them out. */
function Records({
  before,
  after,
  most,
  isOff = false,
}: {
  before: StepFigures | undefined;
  after: StepFigures | undefined;
  most: number;
  isOff?: boolean;
}) {
  const part = (Number(after?.records ?? 0) / most) * 100;
  return (
    <span className="figures mt-0.5 block text-small text-muted">
      <span className="flex items-baseline justify-between gap-2">
        <span>
          {before && after && before.records !== after.records ? (
            <>
              {whole(before.records)} → <span className="font-strong text-ink">{whole(after.records)}</span>
            </>
          ) : (
            whole(after?.records)
          )}
        </span>
        {after && !isOff && <span>{formatNumber(String(Math.round(after.took)), 0)} ms</span>}
      </span>
      <span className="mt-1 block h-[3px] bg-well" aria-hidden="true">
        <span className="block h-full bg-accent" style={{ width: `${part}%` }} />
      </span>
    </span>
  );
}

function Warnings({
  list,
  at,
  selected,
  accepted,
  onMend,
  onAccept,
}: Pick<Props, 'selected' | 'accepted' | 'onMend' | 'onAccept'> & { list: readonly Warning[]; at: number }) {
  const { shown, putAway } = splitWarnings(list, accepted);
  const isBack = selected === at && putAway.length > 0;
  if (shown.length === 0 && !isBack) return null;
  return (
    <ul className="flex flex-col gap-1.5 px-3 pb-2">
      {shown.map((warning) => (
        <li key={warning.words} className="border-l-3 border-slipping pl-2 text-small">
          <span className="block text-slipping">{warning.words}</span>
          <span className="mt-1 flex flex-wrap items-center gap-x-3 gap-y-1">
            {warning.mend && (
              <Button className="max-w-full text-left whitespace-normal!" onClick={() => onMend(warning, at)}>
                {warning.mend.words}
              </Button>
            )}
            {warning.about !== undefined && (
              <Button
                look="quiet"
                className="-ml-1 px-1!"
                onClick={() => onAccept([...accepted, warning.about ?? ''])}
              >
                That’s expected
              </Button>
            )}
          </span>
        </li>
      ))}
      {isBack && (
        <li>
          <Button
            look="quiet"
            className="-ml-1 px-1!"
            onClick={() =>
              onAccept(accepted.filter((about) => !putAway.some((each) => each.about === about)))
            }
          >
            {putAway.length === 1 ? 'Show a warning again' : `Show ${putAway.length} warnings again`}
          </Button>
        </li>
      )}
    </ul>
  );
}

/** What can be done next. */
function AddStep({ onAdd, trigger }: { onAdd: (kind: StepKindName) => void; trigger: ReactNode }) {
  const [open, setOpen] = useState(false);
  return (
    <Popover label="Add a step" trigger={trigger} open={open} onOpenChange={setOpen}>
      <div className="flex flex-col gap-3">
        {offers.map(({ title, kinds }) => (
          <div key={title}>
            <h3 className="mb-0.5 text-small text-muted">{title}</h3>
            <ul>
              {kinds.map(([kind, words]) => (
                <li key={kind}>
                  <button
                    type="button"
                    className="min-h-7 w-full rounded-[3px] px-1.5 py-0.5 text-left hover:bg-wash hover:text-accent"
                    onClick={() => {
                      setOpen(false);
                      onAdd(kind);
                    }}
                  >
                    {words}
                  </button>
                </li>
              ))}
            </ul>
          </div>
        ))}
      </div>
    </Popover>
  );
}
