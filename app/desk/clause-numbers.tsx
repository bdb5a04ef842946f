import { useState } from 'react';
import { clauseSubject } from '#core/dashboard/flow/clauses.ts';
import { binNumbers } from '#core/value/bins/bins.ts';
import type { Bins } from '#core/value/bins/schema.ts';
import type { Field } from '#core/value/field/field.ts';
import { parseValue } from '#core/value/field/value.ts';
import { formatBin } from '#core/value/format/bin.ts';
import { formatCell, formatNumber, type ReadBy } from '#core/value/format/format.ts';
import { asTyped, fromTyped } from '#core/value/number-style.ts';
import { Button } from '../ui/button.tsx';
import { TextField } from '../ui/field.tsx';
import type { ClauseProps } from './clause-control.tsx';
import { useDesk } from './desk-context.ts';
import { useClauseValues } from './use-clause-values.ts';

/** At least, at most, or between; the range that there is stands beside. */
export function Numbers({ clause, test, onSet, onDone }: ClauseProps) {
  const { context, clock } = useDesk();
  const field = clauseSubject(clause, context.dataSets.get(clause.dataSet));
  const answer = useClauseValues(clause, '');
  const [least, setLeast] = useState(
    asTyped(test?.op === 'atLeast' ? test.value : test?.op === 'between' ? test.from : ''),
  );
  const [most, setMost] = useState(
    asTyped(test?.op === 'atMost' ? test.value : test?.op === 'between' ? test.to : ''),
  );
  const [problem, setProblem] = useState<{ least?: string; most?: string }>({});
  const found = answer?.ok ? answer.found : null;
  const type = field?.type ?? 'decimal';
  const unit = field?.unit ? ` (${field.unit})` : '';
  return (
    <form
      className="flex flex-col gap-3"
      onSubmit={(event) => {
        event.preventDefault();
        const [from, to] = [least, most].map((text) =>
          text.trim() === '' ? null : parseValue(type, fromTyped(text)),
        );
        const wrong = {
          ...(from && !from.ok ? { least: from.why } : {}),
          ...(to && !to.ok ? { most: to.why } : {}),
        };
        setProblem(wrong);
        if (Object.keys(wrong).length > 0) return;
        const [a, b] = [from?.ok ? from.value : null, to?.ok ? to.value : null];
        if (a !== null && b !== null) onSet({ op: 'between', from: a, to: b });
        else if (a !== null) onSet({ op: 'atLeast', value: a });
        else onSet(b === null ? null : { op: 'atMost', value: b });
        onDone();
      }}
    >
      <div className="grid grid-cols-2 gap-3">
        <TextField
          label={`At least${unit}`}
          inputMode="decimal"
          value={least}
          onChange={(event) => setLeast(event.target.value)}
          problem={problem.least}
          autoFocus
        />
        <TextField
          label={`At most${unit}`}
          inputMode="decimal"
          value={most}
          onChange={(event) => setMost(event.target.value)}
          problem={problem.most}
        />
      </div>
      {found?.bins && field && found.spread.length > 1 && (
        <Spread bins={found.bins} counts={found.spread} field={field} clock={clock} />
      )}
      {found && field && (
        <p className="figures text-small text-muted">
          There are values from {formatCell(found.least, field, clock)} to{' '}
          {formatCell(found.greatest, field, clock)}.
        </p>
      )}
      <Button type="submit" look="main" className="self-start">
        Apply
      </Button>
    </form>
  );
}

/** A small histogram: where the values lie under the rest of the sentence. */
function Spread({
  bins,
  counts,
  field,
  clock,
}: {
  bins: Bins;
  counts: readonly string[];
  field: Field;
  clock: ReadBy;
}) {
  const most = Math.max(1, ...counts.map(Number));
  return (
    <div
      className="flex h-14 items-end gap-px border-b border-line"
      role="img"
      aria-label="How the values are spread"
    >
      {binNumbers(bins).map((number, at) => (
        <span
          key={number}
          className="min-w-0 flex-1 bg-accent"
          style={{ height: counts[at] === '0' ? 0 : `max(1px, ${(100 * Number(counts[at])) / most}%)` }}
          title={`${formatBin(String(number), bins, field, clock)}: ${formatNumber(counts[at] ?? '0')}`}
        />
      ))}
    </div>
  );
}
