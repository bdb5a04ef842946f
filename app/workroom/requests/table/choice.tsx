import type { FoundTable } from '#core/dataset/found.ts';
import { type TableChoice, titleColumn } from '#core/dataset/from-table.ts';
import { CheckField } from '../../../ui/field.tsx';
import { Section } from '../../../ui/page.tsx';

interface Props {
  readonly table: FoundTable;
  readonly tables: readonly FoundTable[];
  readonly choice: TableChoice;
  readonly onChange: (choice: TableChoice) => void;
}

const toggled = (list: readonly string[], item: string): string[] =>
  list.includes(item) ? list.filter((each) => each !== item) : [...list, item];

/** Which columns are asked for, and which names are looked up by following foreign keys. Nothing else travels. */
export function TableChoiceList({ table, tables, choice, onChange }: Props) {
  const foreign = table.foreignKeys.filter(({ columns }) => columns.length === 1);
  const takenBy = (by: string): readonly string[] =>
    choice.lookUps.find((each) => each.by === by)?.take ?? [];
  const take = (by: string, column: string): void => {
    const next = toggled(takenBy(by), column);
    const others = choice.lookUps.filter((each) => each.by !== by);
    onChange({ ...choice, lookUps: next.length > 0 ? [...others, { by, take: next }] : others });
  };
  return (
    <Section title="What is asked for" note={`From ${table.name}: only these columns leave the source.`}>
      <div className="grid max-h-64 grid-cols-2 gap-x-4 overflow-auto">
        {table.columns.map(({ name }) => (
          <CheckField
            key={name}
            label={<span className="truncate font-mono text-small">{name}</span>}
            checked={choice.columns.includes(name)}
            onChange={() => onChange({ ...choice, columns: toggled(choice.columns, name) })}
          />
        ))}
      </div>
      {foreign.length > 0 && (
        <div className="mt-3 flex flex-col gap-2">
          <h3 className="text-small text-slate">
            Looked up by key: at most one record each, so none is multiplied and none is lost
          </h3>
          {foreign.map(({ columns: [by = ''], schema, table: to }) => {
            const other = tables.find((each) => each.schema === schema && each.name === to);
            const title = other && titleColumn(other);
            if (!other) return null;
            return (
              <div key={by} className="border-l-2 border-hair pl-3">
                <CheckField
                  label={`${by} → its ${title?.name ?? 'record'} in ${to}`}
                  checked={title ? takenBy(by).includes(title.name) : takenBy(by).length > 0}
                  onChange={() => title && take(by, title.name)}
                />
                <details className="pl-6" open={takenBy(by).length > 1}>
                  <summary className="min-h-6 text-small text-accent">more from {to}</summary>
                  <div className="grid grid-cols-2 gap-x-4">
                    {other.columns
                      .filter(({ name }) => name !== title?.name)
                      .map(({ name }) => (
                        <CheckField
                          key={name}
                          label={<span className="font-mono text-small">{name}</span>}
                          checked={takenBy(by).includes(name)}
                          onChange={() => take(by, name)}
                        />
                      ))}
                  </div>
                </details>
              </div>
            );
          })}
        </div>
      )}
    </Section>
  );
}
