import X from 'lucide-react/icons/x';
import * as Dialog from 'radix-ui/dialog';
import type { DataSet } from '#core/dataset/schema.ts';
import type { World } from '#core/dataset/world.ts';
import { labelOf } from '#core/value/field/value.ts';
import { formatNumber } from '#core/value/format/format.ts';
import { calledAt, stepWords } from '#core/words/step.ts';
import type { TraceStep } from '#server/shape/trace.ts';
import { IconButton } from '../../ui/button.tsx';
import { CellView } from '../../ui/cell.tsx';
import { ProblemMessage } from '../../ui/message.tsx';
import type { ShapeState } from './use-shape.ts';

/** One record's way through the steps, from what the source gave to what is shown. */
export function TraceSheet({
  asked,
  definition,
  world,
  sourceName,
  zone,
  onClose,
}: {
  asked: ShapeState<TraceStep[]>;
  definition: DataSet;
  world: World;
  sourceName: string;
  zone: string;
  onClose: () => void;
}) {
  const steps = definition.steps ?? [];
  const found = asked.found ?? [];
  return (
    <Dialog.Root open onOpenChange={(open) => !open && onClose()}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-30 bg-black/10" />
        <Dialog.Content
          aria-describedby={undefined}
          className="appear fixed inset-y-0 right-0 z-40 flex w-[min(40rem,94vw)] flex-col border-l border-line bg-sheet text-ink shadow-[0_0_40px_rgb(0_0_0/0.18)] [--ground:var(--sheet)]"
        >
          <header className="flex items-center justify-between gap-3 border-b border-line px-5 py-3">
            <Dialog.Title className="text-lead font-strong">Where this record comes from</Dialog.Title>
            <Dialog.Close asChild>
              <IconButton name="Close">
                <X className="size-4" />
              </IconButton>
            </Dialog.Close>
          </header>
          <div className="flex-1 overflow-auto px-5 py-3">
            {asked.problem && <ProblemMessage problem={asked.problem} />}
            {asked.busy && <p className="text-muted">Looking for where it comes from …</p>}
            <ol className="flex flex-col gap-5">
              {found.map((trace, index) => {
                const step = steps[trace.steps - 1];
                const before = found[index - 1];
                return (
                  <li key={trace.steps}>
                    <h3 className="border-b border-hair pb-1">
                      {step
                        ? stepWords(step, {
                            before: before?.fields ?? [],
                            world,
                            many: calledAt(steps, trace.steps - 1, definition.noun.many),
                          })
                        : `As ${sourceName} gave it`}
                    </h3>
                    <Cells trace={trace} before={before} zone={zone} />
                  </li>
                );
              })}
            </ol>
          </div>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}

/** The record's fields; after a step only those that it changed, so that what it did is plain to see. */
function Cells({ trace, before, zone }: { trace: TraceStep; before: TraceStep | undefined; zone: string }) {
  const [record] = trace.records;
  if (!record) return <p className="text-small text-muted">At this step no record has these values.</p>;
  const [old] = before?.records ?? [];
  const isOne = before?.total === '1' && trace.total === '1';
  const changed = trace.fields.flatMap((field, at) => {
    const was = before?.fields.findIndex(({ name }) => name === field.name) ?? -1;
    return isOne && was >= 0 && old && old[was] === record[at] ? [] : [{ field, cell: record[at] }];
  });
  const gone = isOne
    ? (before?.fields ?? []).filter(({ name }) => !trace.fields.some((field) => field.name === name))
    : [];
  return (
    <div className="text-small">
      {trace.total !== '1' && (
        <p className="mt-1 text-muted">{formatNumber(trace.total, 0)} records, of which this is the first.</p>
      )}
      {changed.length === 0 && gone.length === 0 && <p className="mt-1 text-muted">Nothing changes here.</p>}
      <dl className="figures mt-1 grid grid-cols-[minmax(8rem,auto)_1fr] gap-x-4">
        {changed.map(({ field, cell }) => (
          <div key={field.name} className="contents">
            <dt className="truncate text-muted">{labelOf(field)}</dt>
            <dd>
              <CellView cell={cell} field={{ ...field, label: labelOf(field) }} clock={zone} />
            </dd>
          </div>
        ))}
      </dl>
      {gone.length > 0 && (
        <p className="mt-1 text-muted">Left out: {gone.map((field) => labelOf(field)).join(', ')}.</p>
      )}
    </div>
  );
}
