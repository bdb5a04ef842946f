import type { FoundTable } from '#core/dataset/found.ts';
import { dataSetFromTable, usualChoice } from '#core/dataset/from-table.ts';
import type { DataSet } from '#core/dataset/schema.ts';
import { Section } from '../../../ui/page.tsx';
import type { StartProps } from '../screen.ts';

const fullName = ({ schema, name }: FoundTable): string => `${schema}.${name}`;

/** The data set of a table, by its full name, with what most take of one; null where there is no such table. */
export function tableDataSet(
  source: string,
  tables: readonly FoundTable[],
  wanted: string | null,
): DataSet | null {
  const table = tables.find((each) => fullName(each) === wanted);
  return table ? dataSetFromTable(source, table, tables, usualChoice(table, tables)) : null;
}

export function TableStart({ source, tables, onStart }: StartProps) {
  return (
    <Section title="From a table">
      <ul className="max-h-[30rem] overflow-auto">
        {tables.map((table) => (
          <li key={fullName(table)}>
            <button
              type="button"
              className="min-h-8 w-full border-b border-hair py-1 text-left hover:bg-wash hover:text-accent"
              onClick={() => onStart(dataSetFromTable(source, table, tables, usualChoice(table, tables)))}
            >
              {table.schema !== 'public' && <span className="text-muted">{table.schema}.</span>}
              {table.name}
            </button>
          </li>
        ))}
      </ul>
    </Section>
  );
}
