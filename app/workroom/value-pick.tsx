import ChevronDown from 'lucide-react/icons/chevron-down';
import { createContext, type ReactNode, useContext, useMemo, useState } from 'react';
import type { DataSet } from '#core/dataset/schema.ts';
import type { Field } from '#core/value/field/field.ts';
import { labelOf, parseValue, typingOf } from '#core/value/field/value.ts';
import { formatCell } from '#core/value/format/format.ts';
import { listWords } from '#core/words/condition.ts';
import { smallBox, TextField } from '../ui/field.tsx';
import { Popover } from '../ui/popover.tsx';
import { toggleValue, ValueList } from '../ui/value-list.tsx';
import { useShape } from './steps/use-shape.ts';

/** The records whose values are offered: those of a data set, as it is on the page, after the first of its steps. */
interface ValueSource {
  readonly id: string;
  readonly definition: DataSet;
  readonly steps: number;
  readonly zone: string;
}

const Source = createContext<ValueSource | null>(null);

/** Conditions below it offer the values that these records have. */
export function ValuesFrom({
  id,
  definition,
  steps = definition.steps?.length ?? 0,
  zone,
  children,
}: Omit<ValueSource, 'steps'> & { steps?: number; children: ReactNode }) {
  const source = useMemo(() => ({ id, definition, steps, zone }), [id, definition, steps, zone]);
  return <Source.Provider value={source}>{children}</Source.Provider>;
}

/** Several values of a field: picked among those that exist, or typed. */
export function ValuePick({
  field,
  values,
  onChange,
}: {
  field: Field;
  values: readonly (string | null)[];
  onChange: (values: (string | null)[]) => void;
}) {
  const source = useContext(Source);
  const [open, setOpen] = useState(false);
  const words = values.map((value) =>
    value === null ? 'blank' : formatCell(value, field, source?.zone ?? 'UTC'),
  );
  return (
    <Popover
      label={`Values of ${labelOf(field).toLowerCase()}`}
      open={open}
      onOpenChange={setOpen}
      trigger={
        <button
          type="button"
          aria-label={`Values: ${words.length > 0 ? listWords(words) : 'none chosen'}`}
          className={`${smallBox} flex items-center gap-1.5 text-left hover:border-accent`}
        >
          <span className={`min-w-0 truncate ${words.length === 0 ? 'text-muted' : ''}`}>
            {words.length === 0 ? 'choose values' : words.join(', ')}
          </span>
          <ChevronDown className="size-3.5 shrink-0 text-muted" aria-hidden="true" />
        </button>
      }
    >
      {source && <Offered source={source} field={field} values={values} onChange={onChange} />}
    </Popover>
  );
}

function Offered({
  source: { id, definition, steps, zone },
  field,
  values,
  onChange,
}: {
  source: ValueSource;
  field: Field;
  values: readonly (string | null)[];
  onChange: (values: (string | null)[]) => void;
}) {
  const [find, setFind] = useState('');
  const { found, problem } = useShape(id, definition, { kind: 'values', steps, field: field.name, find });
  const typed = find.trim();
  const [, toValue] = typingOf(field.type);
  const parsed = typed === '' ? null : parseValue(field.type, toValue(typed));
  const read = parsed?.ok ? parsed.value : undefined;
  const isThere = found?.values.some(({ value }) => String(value).toLowerCase() === read?.toLowerCase());
  const toggle = (value: string | null): void => onChange(toggleValue(values, value));
  const enter = (): void => {
    if (read === undefined) return;
    toggle(read);
    setFind('');
  };
  return (
    <div className="flex flex-col gap-3">
      <TextField
        label="Find or type a value"
        value={find}
        maxLength={200}
        autoFocus
        problem={parsed && !parsed.ok && found?.values.length === 0 ? `${parsed.why}.` : undefined}
        onChange={({ target }) => setFind(target.value)}
        onKeyDown={(event) => {
          if (event.key !== 'Enter') return;
          event.preventDefault();
          enter();
        }}
      />
      {read !== undefined && !isThere && (
        <button
          type="button"
          className="rounded-[3px] px-1 text-left text-small hover:bg-wash hover:text-accent"
          onClick={enter}
        >
          Take “{typed}”, which {found ? 'no record has' : 'is being looked for'}
        </button>
      )}
      {problem && (
        <p className="text-small text-muted">The values there are cannot be read: {problem.why}.</p>
      )}
      {!found && !problem && <p className="text-small text-muted">Looking …</p>}
      <ValueList
        found={found?.values ?? []}
        chosen={values}
        withChosen={typed === ''}
        field={field}
        clock={zone}
        onToggle={toggle}
      />
      {found?.more && <p className="text-small text-muted">There are more: type a part of one.</p>}
    </div>
  );
}
