import ArrowDown from 'lucide-react/icons/arrow-down';
import ArrowUp from 'lucide-react/icons/arrow-up';
import X from 'lucide-react/icons/x';
import { useState } from 'react';
import { freeClauseName } from '#core/dashboard/clause-name.ts';
import { inputLabel } from '#core/dashboard/flow/clauses.ts';
import { clauseWords } from '#core/dashboard/flow/words/scope.ts';
import { clauseOffer } from '#core/dashboard/pane/suggest.ts';
import { usesOf } from '#core/dashboard/pane/uses.ts';
import type { Clause, Dashboard } from '#core/dashboard/schema.ts';
import type { Input } from '#core/dataset/schema.ts';
import type { Field } from '#core/value/field/field.ts';
import { labelOf } from '#core/value/field/value.ts';
import { pluralOf } from '#core/words/plural.ts';
import { useDesk } from '../desk/desk-context.ts';
import { Button, IconButton } from '../ui/button.tsx';
import { choicesOf } from '../ui/choice.tsx';
import { ConfirmRemove } from '../ui/confirm-remove.tsx';
import { CheckField, TextField } from '../ui/field.tsx';
import { Popover } from '../ui/popover.tsx';
import { SelectField } from '../ui/select-field.tsx';
import type { OfferedDataSet } from './draft-page.tsx';

interface Props {
  readonly dashboard: Dashboard;
  readonly dataSets: readonly OfferedDataSet[];
  readonly onChange: (next: Dashboard) => void;
}

/** What readers may narrow by: their order, wording, kind, and what each starts with. */
export function ScopeEditor({ dashboard, dataSets, onChange }: Props) {
  const used = new Set(dashboard.panes.flatMap(usesOf).map(({ dataSet }) => dataSet));
  const offered = dataSets.filter(({ id }) => used.has(id));
  const put = (scope: readonly Clause[]): void => onChange({ ...dashboard, scope: [...scope] });
  const { scope } = dashboard;
  return (
    <Popover
      label="Reader filters"
      wide
      trigger={
        <Button
          disabled={offered.length === 0}
          title={offered.length === 0 ? 'Add a pane first: readers filter what panes show.' : undefined}
        >
          Reader filters
        </Button>
      }
    >
      <h3 className="mb-1 text-small text-slate">Readers may filter by</h3>
      <ul>
        {scope.map((clause, index) => (
          <ClauseRow
            key={clause.name}
            clause={clause}
            dataSets={dataSets}
            onChange={(next) => put(scope.map((each) => (each === clause ? next : each)))}
            onRemove={() => put(scope.filter((each) => each !== clause))}
            onUp={index === 0 ? null : () => put(swapped(scope, index - 1))}
            onDown={index === scope.length - 1 ? null : () => put(swapped(scope, index))}
          />
        ))}
      </ul>
      <NewClause
        key={scope.length}
        dashboard={dashboard}
        offered={offered}
        onAdd={(clause) => put([...scope, clause])}
      />
    </Popover>
  );
}

/** The list with the clause at an index and the one after it in each other's place. */
function swapped(scope: readonly Clause[], index: number): Clause[] {
  const next = [...scope];
  next.splice(index, 2, ...[...scope.slice(index, index + 2)].reverse());
  return next;
}

function ClauseRow({
  clause,
  dataSets,
  onChange,
  onRemove,
  onUp,
  onDown,
}: {
  clause: Clause;
  dataSets: readonly OfferedDataSet[];
  onChange: (clause: Clause) => void;
  onRemove: () => void;
  onUp: (() => void) | null;
  onDown: (() => void) | null;
}) {
  const { context } = useDesk();
  const [open, setOpen] = useState(false);
  const [many, setMany] = useState(clause.many);
  const [lead, setLead] = useState(clause.lead ?? '');
  const dataSet = dataSets.find(({ id }) => id === clause.dataSet)?.definition;
  const chosen = context.scope.clauses[clause.name];
  const isText = clause.offer === 'text';
  const words = (test: Clause['initially']): string =>
    clauseWords(clause, test ?? null, dataSet, context.clock);
  const settle = (): void => {
    const { lead: _, ...rest } = clause;
    const next = { ...rest, many: many.trim() || clause.many, ...(lead.trim() ? { lead: lead.trim() } : {}) };
    if (next.many !== clause.many || next.lead !== clause.lead) onChange(next);
  };
  return (
    <li className="border-b border-hair py-1">
      <div className="flex items-center gap-1">
        <button
          type="button"
          aria-expanded={open}
          className="min-h-7 flex-1 truncate text-left hover:text-accent"
          onClick={() => setOpen(!open)}
        >
          {clause.lead} {clause.many}
          <span className="text-small text-muted"> · at first {words(clause.initially)}</span>
        </button>
        <IconButton name={`Move ${clause.many} up`} disabled={!onUp} onClick={() => onUp?.()}>
          <ArrowUp className="size-4" />
        </IconButton>
        <IconButton name={`Move ${clause.many} down`} disabled={!onDown} onClick={() => onDown?.()}>
          <ArrowDown className="size-4" />
        </IconButton>
        <ConfirmRemove
          what={`the filter by ${clause.many}`}
          goesWith={['Addresses that readers have kept go on without it.']}
          canUndo
          onRemove={onRemove}
          trigger={
            <IconButton name={`Remove ${clause.many}`}>
              <X className="size-4" />
            </IconButton>
          }
        />
      </div>
      {open && (
        <div className="my-2 grid grid-cols-2 gap-3">
          <TextField
            label="Shown as"
            value={many}
            onChange={(event) => setMany(event.target.value)}
            onBlur={settle}
          />
          <TextField
            label="Words before it"
            value={lead}
            onChange={(event) => setLead(event.target.value)}
            onBlur={settle}
          />
          {(clause.offer === 'values' || isText) && (
            <CheckField
              label="By a part of the text, not by values"
              checked={isText}
              onChange={() => {
                const { initially: _, ...rest } = clause;
                onChange({ ...rest, offer: isText ? 'values' : 'text' });
              }}
            />
          )}
          <div className="col-span-2 flex flex-wrap items-center gap-2">
            <Button
              disabled={chosen === undefined || chosen === null}
              title={
                chosen === undefined || chosen === null
                  ? 'Choose it in the sentence above the panes first.'
                  : undefined
              }
              onClick={() => chosen && onChange({ ...clause, initially: chosen })}
            >
              Start with what is chosen now
            </Button>
            {clause.initially && (
              <Button
                look="quiet"
                onClick={() => {
                  const { initially: _, ...rest } = clause;
                  onChange(rest);
                }}
              >
                Start with nothing chosen
              </Button>
            )}
          </div>
        </div>
      )}
    </li>
  );
}

/** How a clause over a text may be offered. */
const textOffers = {
  values: 'the values there are',
  text: 'a part of the text',
  email: 'theirs or all, by their e-mail address',
  name: 'theirs or all, by their name',
} as const;

/** What readers may be asked for: a field that panes' records have, or an input of their requests. */
type Subject = Pick<OfferedDataSet, 'id' | 'name' | 'definition'> &
  ({ readonly field: Field } | { readonly input: Input });

function subjectsOf(offered: readonly OfferedDataSet[]): (Subject & { path: string; words: string })[] {
  return offered.flatMap((dataSet) => {
    const before = offered.length > 1 ? `${dataSet.name}: ` : '';
    return [
      ...dataSet.definition.fields
        .filter(({ hidden, type }) => !hidden && type !== 'nested')
        .map((field) => ({
          ...dataSet,
          field,
          path: `${dataSet.id} field ${field.name}`,
          words: `${before}${labelOf(field).toLowerCase()}`,
        })),
      ...dataSet.definition.inputs.map((input) => ({
        ...dataSet,
        input,
        path: `${dataSet.id} input ${input.name}`,
        words: `${before}the input “${inputLabel(input).toLowerCase()}”`,
      })),
    ];
  });
}

/** What a new clause offers, and what it is about. */
function offerOf(subject: Subject, how: keyof typeof textOffers) {
  if ('input' in subject) {
    const { name: input, initially } = subject.input;
    const start = initially ? { initially: { op: 'is' as const, values: [initially] } } : {};
    return { offer: 'input' as const, input, ...start };
  }
  const { name: field, type } = subject.field;
  const offer = clauseOffer(type);
  if (type !== 'text' || how === 'values') return { offer, field };
  return how === 'text' ? { offer: how, field } : { offer: 'mine' as const, person: how, field };
}

/** The word for a clause where the analyst writes none: "routes", "delay", "work orders". */
function usualWord(subject: Subject, offer: Clause['offer']): string {
  if ('input' in subject) return inputLabel(subject.input).toLowerCase();
  if (offer === 'mine') return subject.definition.noun.many;
  const label = labelOf(subject.field).toLowerCase();
  return offer === 'values' ? pluralOf(label) : label;
}

function NewClause({
  dashboard,
  offered,
  onAdd,
}: {
  dashboard: Dashboard;
  offered: readonly OfferedDataSet[];
  onAdd: (clause: Clause) => void;
}) {
  const { clock } = useDesk().context;
  const subjects = subjectsOf(offered);
  const [path, setPath] = useState(subjects[0]?.path ?? '');
  const [how, setHow] = useState<keyof typeof textOffers>('values');
  const [many, setMany] = useState('');
  const [lead, setLead] = useState('');
  const subject = subjects.find((each) => each.path === path);
  if (!subject) return null;
  const about = offerOf(subject, how);
  const usual = usualWord(subject, about.offer);
  const clause: Clause = {
    name: freeClauseName(
      'field' in subject && about.offer !== 'mine' ? labelOf(subject.field) : usual,
      dashboard.scope,
    ),
    many: many || usual,
    ...(lead ? { lead } : {}),
    dataSet: subject.id,
    ...about,
  };
  return (
    <div className="mt-4 flex flex-col gap-3">
      <SelectField
        label="Another: by"
        value={path}
        onChange={setPath}
        choices={subjects.map((each) => ({ value: each.path, words: each.words }))}
      />
      {'field' in subject && subject.field.type === 'text' && (
        <SelectField label="Readers choose" value={how} onChange={setHow} choices={choicesOf(textOffers)} />
      )}
      <div className="grid grid-cols-2 gap-3">
        <TextField
          label="Shown as"
          hint={`“${clauseWords(clause, null, subject.definition, clock)}”`}
          placeholder={usual}
          value={many}
          onChange={(event) => setMany(event.target.value)}
        />
        <TextField
          label="Words before it"
          placeholder={about.offer === 'dates' ? 'departing' : ''}
          value={lead}
          onChange={(event) => setLead(event.target.value)}
        />
      </div>
      <Button look="main" className="self-start" onClick={() => onAdd(clause)}>
        Add filter
      </Button>
    </div>
  );
}
