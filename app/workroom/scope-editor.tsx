import { ArrowDown, ArrowUp, X } from 'lucide-react';
import { useState } from 'react';
import type { Clause, Dashboard } from '#core/dashboard/schema.ts';
import { freeName } from '#core/field/free-name.ts';
import { labelOf } from '#core/field/value.ts';
import { clauseOffer } from '#core/pane/suggest.ts';
import { pluralOf } from '#core/words/plural.ts';
import { clauseWords } from '#core/words/scope.ts';
import { useDesk } from '../desk/desk-context.ts';
import { Button, IconButton } from '../ui/button.tsx';
import { ConfirmRemove } from '../ui/confirm-remove.tsx';
import { CheckField, SelectField, TextField } from '../ui/field.tsx';
import { Popover } from '../ui/popover.tsx';
import type { OfferedDataSet } from './draft-page.tsx';

interface Props {
  readonly dashboard: Dashboard;
  readonly dataSets: readonly OfferedDataSet[];
  readonly onChange: (next: Dashboard) => void;
}

/** What readers may narrow by: their order, wording, kind, and what each starts with. */
export function ScopeEditor({ dashboard, dataSets, onChange }: Props) {
  const used = new Set(dashboard.panes.map(({ dataSet }) => dataSet));
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
          <span className="text-small text-muted"> · starts with {words(clause.initially)}</span>
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

function NewClause({
  dashboard,
  offered,
  onAdd,
}: {
  dashboard: Dashboard;
  offered: readonly OfferedDataSet[];
  onAdd: (clause: Clause) => void;
}) {
  const choices = offered.flatMap(({ id, name, definition }) =>
    definition.fields
      .filter(({ hidden, type }) => !hidden && type !== 'nested')
      .map((field) => ({ id, name, field, path: `${id} ${field.name}` })),
  );
  const [path, setPath] = useState(choices[0]?.path ?? '');
  const [many, setMany] = useState('');
  const [lead, setLead] = useState('');
  const [asText, setAsText] = useState(false);
  const chosen = choices.find((each) => each.path === path);
  const offer = chosen ? clauseOffer(chosen.field.type) : 'values';
  const label = chosen ? labelOf(chosen.field).toLowerCase() : '';
  const usual = offer === 'values' ? pluralOf(label) : label;
  const add = (): void => {
    if (!chosen) return;
    const stem =
      label
        .replace(/[^a-z0-9]+/g, '-')
        .replace(/^[^a-z]+|-+$/g, '')
        .slice(0, 30) || 'clause';
    const wanted = stem === 'at' || stem === 'and' ? `${stem}-1` : stem;
    const name = freeName(wanted, (each) => dashboard.scope.some((clause) => clause.name === each), '-');
    onAdd({
      name,
      many: many || usual,
      ...(lead ? { lead } : {}),
      offer: asText && offer === 'values' ? 'text' : offer,
      dataSet: chosen.id,
      field: chosen.field.name,
    });
  };
  return (
    <div className="mt-4 flex flex-col gap-3">
      <SelectField label="Another: by" value={path} onChange={(event) => setPath(event.target.value)}>
        {choices.map(({ path: each, name, field }) => (
          <option key={each} value={each}>
            {offered.length > 1 ? `${name}: ` : ''}
            {labelOf(field).toLowerCase()}
          </option>
        ))}
      </SelectField>
      <div className="grid grid-cols-2 gap-3">
        <TextField
          label="Shown as"
          hint={`“all ${many || usual}”`}
          placeholder={usual}
          value={many}
          onChange={(event) => setMany(event.target.value)}
        />
        <TextField
          label="Words before it"
          placeholder={offer === 'dates' ? 'departing' : ''}
          value={lead}
          onChange={(event) => setLead(event.target.value)}
        />
      </div>
      {offer === 'values' && (
        <CheckField
          label="By a part of the text, not by values"
          checked={asText}
          onChange={() => setAsText(!asText)}
        />
      )}
      <Button look="main" className="self-start" onClick={add} disabled={!chosen}>
        Add filter
      </Button>
    </div>
  );
}
