import { X } from 'lucide-react';
import { useState } from 'react';
import type { Clause, Dashboard } from '#core/dashboard/schema.ts';
import { freeName } from '#core/field/free-name.ts';
import { labelOf } from '#core/field/value.ts';
import { clauseOffer } from '#core/pane/suggest.ts';
import { Button, IconButton } from '../ui/button.tsx';
import { CheckField, SelectField, TextField } from '../ui/field.tsx';
import { Popover } from '../ui/popover.tsx';
import type { OfferedDataSet } from './draft-page.tsx';

/** What readers may narrow by: the clauses of the scope line. */
export function ScopeEditor({
  dashboard,
  dataSets,
  onChange,
}: {
  dashboard: Dashboard;
  dataSets: readonly OfferedDataSet[];
  onChange: (next: Dashboard) => void;
}) {
  const used = new Set(dashboard.panes.map(({ dataSet }) => dataSet));
  const offered = dataSets.filter(({ id }) => used.has(id));
  return (
    <Popover
      label="Clauses of the scope line"
      wide
      trigger={<Button disabled={offered.length === 0}>Scope</Button>}
    >
      <h3 className="mb-1 text-small text-slate">Readers may narrow by</h3>
      <ul>
        {dashboard.scope.map((clause) => (
          <li key={clause.name} className="flex items-center gap-2 border-b border-hair py-1">
            <span className="flex-1">
              {clause.lead} {clause.many}
            </span>
            <IconButton
              name={`Take ${clause.many} away`}
              onClick={() =>
                onChange({ ...dashboard, scope: dashboard.scope.filter(({ name }) => name !== clause.name) })
              }
            >
              <X className="size-4" />
            </IconButton>
          </li>
        ))}
      </ul>
      <NewClause
        key={dashboard.scope.length}
        dashboard={dashboard}
        offered={offered}
        onAdd={(clause) => onChange({ ...dashboard, scope: [...dashboard.scope, clause] })}
      />
    </Popover>
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
  const choices = offered.flatMap(({ id, definition }) =>
    definition.fields
      .filter(({ hidden, type }) => !hidden && type !== 'nested')
      .map((field) => ({ id, definition, field, path: `${id} ${field.name}` })),
  );
  const [path, setPath] = useState(choices[0]?.path ?? '');
  const [many, setMany] = useState('');
  const [lead, setLead] = useState('');
  const [asText, setAsText] = useState(false);
  const chosen = choices.find((each) => each.path === path);
  const offer = chosen ? clauseOffer(chosen.field.type) : 'values';
  const label = chosen ? labelOf(chosen.field).toLowerCase() : '';
  const usual = offer === 'values' ? `${label}${/s$/.test(label) ? '' : 's'}` : label;
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
      <SelectField label="One more: by" value={path} onChange={(event) => setPath(event.target.value)}>
        {choices.map(({ path: each, definition, field }) => (
          <option key={each} value={each}>
            {offered.length > 1 ? `${definition.noun.one}: ` : ''}
            {labelOf(field).toLowerCase()}
          </option>
        ))}
      </SelectField>
      <div className="grid grid-cols-2 gap-3">
        <TextField
          label="Said as"
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
        Add it
      </Button>
    </div>
  );
}
