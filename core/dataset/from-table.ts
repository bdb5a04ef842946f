import type { Field } from '#core/value/field/field.ts';
import { freeName } from '#core/value/field/free-name.ts';
import type { FoundColumn, FoundTable } from './found.ts';
import type { Column, DataSet, LookUp } from './schema.ts';

/** A column to take, and the look-ups to follow from it: which columns of the table that its foreign key points at. */
export interface TableChoice {
  readonly columns: readonly string[];
  readonly lookUps: readonly { readonly by: string; readonly take: readonly string[] }[];
}

/** "work_orders" → work order, work orders. */
export function nounsOf(table: string): { one: string; many: string } {
  const many = table.replaceAll('_', ' ').trim().toLowerCase() || 'records';
  if (/[^aeiou]ies$/.test(many)) return { one: many.replace(/ies$/, 'y'), many };
  if (/(ss|x|ch|sh)es$/.test(many)) return { one: many.replace(/es$/, ''), many };
  if (/[^s]s$/.test(many)) return { one: many.replace(/s$/, ''), many };
  return { one: `${many} record`, many: `${many} records` };
}

/** The column that names a record to a person: the first text one called as names are called, else the first text one. */
export function titleColumn(table: FoundTable): FoundColumn | undefined {
  const texts = table.columns.filter(({ type }) => type === 'text');
  return (
    texts.find(({ name }) => /^(name|title|label|reference|number|code)$/i.test(name)) ??
    texts.find(({ name }) => /(name|title|reference)$/i.test(name)) ??
    texts[0]
  );
}

/** What is taken when nobody chose yet: every column, and for each foreign key the name of what it points at. */
export function usualChoice(table: FoundTable, tables: readonly FoundTable[]): TableChoice {
  return {
    columns: table.columns.map(({ name }) => name),
    lookUps: table.foreignKeys.flatMap((foreign) => {
      const [by] = foreign.columns;
      const other = tables.find(({ schema, name }) => schema === foreign.schema && name === foreign.table);
      const title = other && titleColumn(other);
      return by !== undefined && foreign.columns.length === 1 && title ? [{ by, take: [title.name] }] : [];
    }),
  };
}

const withoutId = (column: string): string => column.replace(/_?(id|no|key)$/i, '') || column;

/**
 * A data set of one table: the chosen columns, then what the look-ups bring, each named after the column that leads to
 * it ("route_id" → "route"). Knows its key, and what each field points at.
 */
export function dataSetFromTable(
  source: string,
  table: FoundTable,
  tables: readonly FoundTable[],
  choice: TableChoice,
): DataSet {
  const used = new Set<string>();
  const unique = (name: string): string => {
    const free = freeName(name, (each) => used.has(each.toLowerCase()));
    used.add(free.toLowerCase());
    return free;
  };
  const column = (found: FoundColumn, name: string): Column => ({
    column: found.name,
    name: unique(name),
    type: found.type,
    ...(found.read ? { read: found.read } : {}),
    ...(found.mayBeBlank ? {} : { filled: true }),
    ...(found.made ? { made: true } : {}),
    ...(found.usual ? { usual: true } : {}),
    ...(found.longest === undefined ? {} : { longest: found.longest }),
    ...(found.among ? { among: [...found.among] } : {}),
  });
  const columns = table.columns
    .filter(({ name }) => choice.columns.includes(name))
    .map((found) => column(found, found.name));
  const lookUps = choice.lookUps.flatMap(({ by, take }): LookUp[] => {
    const foreign = table.foreignKeys.find((each) => each.columns.length === 1 && each.columns[0] === by);
    const other =
      foreign && tables.find(({ schema, name }) => schema === foreign.schema && name === foreign.table);
    const [key] = foreign?.keys ?? [];
    if (!other || key === undefined) return [];
    const title = titleColumn(other)?.name;
    const stem = withoutId(by);
    const taken = other.columns.filter(({ name }) => take.includes(name));
    return [
      {
        as: by,
        by,
        schema: other.schema,
        table: other.name,
        key,
        ...(foreign?.via === undefined ? {} : { via: foreign.via }),
        take: taken
          .map((each) => ({ ...each, mayBeBlank: true }))
          .map((found) => column(found, found.name === title ? stem : `${stem}_${found.name}`)),
      },
    ];
  });
  const refers = (name: string): string | undefined => {
    const foreign = table.foreignKeys.find((each) => each.columns.length === 1 && each.columns[0] === name);
    return foreign && `${foreign.schema}.${foreign.table}.${foreign.keys[0] ?? ''}`;
  };
  const comment = (name: string): string | null =>
    table.columns.find((each) => each.name === name)?.comment ?? null;
  const looked = new Set(lookUps.filter(({ take }) => take.length > 0).map(({ by }) => by));
  const fields: Field[] = [
    ...columns.map(({ column: of, name, type }): Field => {
      const points = refers(of);
      const remark = comment(of);
      return {
        name,
        type,
        origin: `${table.schema}.${table.name}.${of}`,
        ...(points ? { refers: points } : {}),
        ...(remark ? { description: remark } : {}),
        // Readers are shown the name that was looked up instead of the number that leads to it.
        ...(looked.has(of) ? { hidden: true } : {}),
        ...(/(^|_)(id|no|reference|code)$/i.test(of) && type !== 'instant'
          ? { format: { kind: 'id' as const } }
          : {}),
      };
    }),
    ...lookUps.flatMap(({ schema, table: other, take }) =>
      take.map(({ column: of, name, type }): Field => ({ name, type, origin: `${schema}.${other}.${of}` })),
    ),
  ];
  const noun = nounsOf(table.name);
  const [only, ...more] = table.key;
  const key = more.length === 0 ? columns.find((each) => each.column === only)?.name : undefined;
  const title = columns.find((each) => each.column === titleColumn(table)?.name)?.name;
  return {
    version: 2,
    source,
    request: { kind: 'table', schema: table.schema, table: table.name, columns, lookUps },
    inputs: [],
    fields,
    ...(key === undefined ? {} : { key }),
    ...(title === undefined ? {} : { title }),
    noun,
    measures: [{ name: 'count', label: noun.many, calculation: { kind: 'count' } }],
  };
}
