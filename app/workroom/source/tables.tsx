import { useMemo, useState } from 'react';
import { Link } from 'react-router';
import type { FoundTable } from '#core/dataset/found.ts';
import { formatNumber } from '#core/value/format/format.ts';
import { TextField } from '../../ui/field.tsx';
import { Section } from '../../ui/page.tsx';

/** The tables of a source, to find one by its name or those of its columns. `chosen`: its schema and name. */
export function TableList({
  tables,
  chosen,
}: {
  readonly tables: readonly FoundTable[];
  readonly chosen: string | null;
}) {
  const [find, setFind] = useState('');
  const found = useMemo(() => {
    const words = find.toLowerCase().split(/\s+/).filter(Boolean);
    return tables.filter((table) =>
      words.every((word) =>
        `${table.schema}.${table.name} ${table.columns.map((column) => column.name).join(' ')}`
          .toLowerCase()
          .includes(word),
      ),
    );
  }, [find, tables]);
  return (
    <Section title="What is there">
      <TextField
        label="Find a table or column"
        value={find}
        onChange={(event) => setFind(event.target.value)}
      />
      <ul className="mt-2 max-h-[26rem] overflow-auto">
        {found.map((each) => {
          const full = `${each.schema}.${each.name}`;
          return (
            <li key={full}>
              <Link
                to={`?table=${encodeURIComponent(full)}`}
                preventScrollReset
                className={`flex min-h-8 items-baseline justify-between gap-3 border-b border-hair px-1 py-1 hover:bg-wash ${full === chosen ? 'bg-wash font-strong' : ''}`}
                aria-current={full === chosen ? 'true' : undefined}
              >
                <span className="truncate">
                  {each.schema !== 'public' && <span className="text-muted">{each.schema}.</span>}
                  {each.name}
                  {each.kind === 'view' && <span className="text-small text-muted"> view</span>}
                </span>
                <span className="figures text-small text-muted">
                  {each.about === null ? '' : `about ${formatNumber(String(each.about))}`}
                </span>
              </Link>
            </li>
          );
        })}
      </ul>
      {found.length === 0 && <p className="text-muted">Nothing of that name.</p>}
    </Section>
  );
}

/** The columns of a table: their types, what they point at, and what the source says of them. */
export function TableColumns({ table }: { readonly table: FoundTable }) {
  return (
    <Section title={table.name} note={table.comment}>
      <table className="w-full text-left">
        <thead className="text-small text-slate">
          <tr>
            <th scope="col" className="border-b border-hair py-1">
              Column
            </th>
            <th scope="col" className="border-b border-hair py-1">
              Type
            </th>
            <th scope="col" className="border-b border-hair py-1">
              Points at
            </th>
            <th scope="col" className="border-b border-hair py-1">
              Notes
            </th>
          </tr>
        </thead>
        <tbody>
          {table.columns.map((column) => {
            const foreign = table.foreignKeys.find(
              ({ columns }) => columns.length === 1 && columns[0] === column.name,
            );
            return (
              <tr key={column.name} className="border-b border-hair">
                <td className="py-1 pr-4 font-mono">{column.name}</td>
                <td className="py-1 pr-4 text-muted">{column.sourceType}</td>
                <td className="py-1 pr-4">
                  {foreign && (
                    <Link
                      to={`?table=${encodeURIComponent(`${foreign.schema}.${foreign.table}`)}`}
                      className="text-accent hover:underline"
                    >
                      {foreign.table}
                    </Link>
                  )}
                </td>
                <td className="py-1 text-small text-muted">
                  {[
                    table.key.includes(column.name) ? 'key' : '',
                    column.mayBeBlank ? 'may be blank' : '',
                    column.comment ?? '',
                  ]
                    .filter(Boolean)
                    .join(' · ')}
                </td>
              </tr>
            );
          })}
        </tbody>
      </table>
    </Section>
  );
}
