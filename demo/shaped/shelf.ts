import { randomUUID } from 'node:crypto';
import type { FoundTable } from '#core/dataset/found.ts';
import { dataSetFromTable } from '#core/dataset/from-table.ts';
import { withOutcome } from '#core/dataset/outcome.ts';
import type { DataSet } from '#core/dataset/schema.ts';
import { shape } from '#core/dataset/step/kinds.ts';
import type { Step } from '#core/dataset/step/schema.ts';
import type { Field } from '#core/value/field/field.ts';
import { addDataSet, allDataSets } from '#server/store/data-sets.ts';

/* What the shaped data sets of the demo are made with. */

/** A step without its id, which its place gives. */
type Told<S = Step> = S extends Step ? Omit<S, 'id'> : never;
export const numbered = (steps: readonly Told[]): Step[] =>
  steps.map((step, index) => ({ ...step, id: `step-${index + 1}` }) as Step);

export interface Shaped
  extends Pick<DataSet, 'noun'>,
    Partial<Pick<DataSet, 'measures' | 'subsets' | 'checks' | 'key' | 'title'>> {
  readonly name: string;
  readonly steps: readonly Told[];
  readonly labels?: Readonly<Record<string, Partial<Field>>>;
}

export const is = (field: string, ...values: string[]) => ({ field, test: { op: 'is' as const, values } });
export const isNot = (field: string, ...values: string[]) => ({
  field,
  test: { op: 'isNot' as const, values },
});
export const filled = (field: string) => ({ field, test: { op: 'filled' as const } });
export const percent = { kind: 'percent' as const, decimals: 1 };

interface Known {
  readonly id: string;
  readonly definition: DataSet;
}

/** The data sets of the demo by name, and new ones made of them. */
export class Shelf {
  private constructor(private readonly known: Map<string, Known>) {}

  static async open(): Promise<Shelf> {
    return new Shelf(new Map((await allDataSets()).map((each) => [each.name, each])));
  }

  has(name: string): boolean {
    return this.known.has(name);
  }

  of(name: string): Known {
    const found = this.known.get(name);
    if (!found) throw new Error(`the demo has no data set ${name}`);
    return found;
  }

  private async add(name: string, definition: DataSet): Promise<void> {
    const id = randomUUID();
    await addDataSet({ id, name, definition, by: null });
    this.known.set(name, { id, definition });
  }

  /** A data set of a whole table, without look-ups. */
  async plain(
    source: string,
    tables: readonly FoundTable[],
    table: string,
    name: string,
    change: (definition: DataSet) => DataSet = (same) => same,
  ): Promise<void> {
    const one = tables.find((each) => each.name === table);
    if (!one) throw new Error(`the demo has no table ${table}`);
    const choice = { columns: one.columns.map((column) => column.name), lookUps: [] };
    await this.add(name, change(dataSetFromTable(source, one, tables, choice)));
  }

  /** A data set made of another one. Throws where a step cannot be done: the demo ships none such. */
  async shaped(from: string, { name, steps, labels = {}, ...rest }: Shaped): Promise<void> {
    const of = this.of(from);
    const world = new Map([...this.known.values()].map(({ id, definition }) => [id, definition]));
    const start = of.definition.fields;
    const definition = withOutcome(
      {
        version: 2,
        source: of.definition.source,
        request: { kind: 'of', dataSet: of.id, columns: [] },
        inputs: [],
        fields: start,
        measures: [
          { name: 'count', label: rest.noun.many, calculation: { kind: 'count' } },
          ...(rest.measures ?? []),
        ],
        start,
        steps: numbered(steps),
        noun: rest.noun,
        ...(rest.subsets ? { subsets: rest.subsets } : {}),
        ...(rest.checks ? { checks: rest.checks } : {}),
        ...(rest.key ? { key: rest.key } : {}),
        ...(rest.title ? { title: rest.title } : {}),
      },
      world,
    );
    const wrong = shape(start, definition.steps ?? [], world).problems.find((problem) => problem !== null);
    if (wrong) throw new Error(`the demo's data set “${name}”: ${wrong}`);
    const fields = definition.fields.map((field) => ({ ...field, ...labels[field.name] }));
    await this.add(name, { ...definition, fields });
  }
}
