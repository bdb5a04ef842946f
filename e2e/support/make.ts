import { randomUUID } from 'node:crypto';
import { startOf, withOutcome } from '#core/dataset/outcome.ts';
import { migrateDataSet } from '../../core/dashboard/migrate.ts';
import type { DataSet } from '../../core/dataset/schema.ts';
import type { Step } from '../../core/dataset/step/schema.ts';
import { withDatabase } from './people.ts';

/* What a journey needs to be there already, made straight in the database: so that each journey stands alone. */

/** A title or name that nothing else has, however often a journey is run on one installation. */
export const unique = (name: string): string => `${name} ${randomUUID().slice(0, 6)}`;

/** A draft with the panes and clauses of a dashboard of the demo. Gives where it is edited. */
export async function copyOfDashboard(
  slug: string,
  title: string,
): Promise<{ id: string; slug: string; address: string }> {
  const id = randomUUID();
  const own = `copy-${id.slice(0, 8)}`;
  await withDatabase('postgres', (client) =>
    client.query(
      `INSERT INTO dashboards (id, desk_id, slug, position, draft)
       SELECT $1, desk_id, $2, (SELECT max(position) + 1 FROM dashboards), jsonb_set(draft, '{title}', to_jsonb($3::text))
       FROM dashboards WHERE slug = $4`,
      [id, own, title, slug],
    ),
  );
  return { id, slug: own, address: `/workroom/dashboards/${id}` };
}

/** A data set that is asked for as one of the demo is, with steps of its own. */
export async function dataSetWithSteps(from: string, name: string, steps: Step[]): Promise<string> {
  const id = randomUUID();
  await withDatabase('postgres', async (client) => {
    const { rows } = await client.query<{ source_id: string; definition: unknown }>(
      'SELECT source_id, definition FROM data_sets WHERE name = $1',
      [from],
    );
    const [row] = rows;
    if (!row) throw new Error(`the demo has no data set “${from}”`);
    const { keeping: _, subsets: __, checks: ___, ...base } = migrateDataSet(row.definition);
    const shaped: DataSet = { ...base, start: [...startOf(base)], steps };
    const { fields } = withOutcome(shaped, new Map());
    const has = (field: string | undefined): boolean => fields.some((each) => each.name === field);
    const { key, title, ...rest } = shaped;
    const definition: DataSet = {
      ...rest,
      fields,
      measures: [{ name: 'count', label: base.noun.many, calculation: { kind: 'count' } }],
      ...(has(key) ? { key } : {}),
      ...(has(title) ? { title } : {}),
    };
    await client.query('INSERT INTO data_sets (id, name, source_id, definition) VALUES ($1, $2, $3, $4)', [
      id,
      name,
      row.source_id,
      JSON.stringify(definition),
    ]);
  });
  return id;
}

/** The share of sailings that left on time, by route: six records. */
export const punctualityByRoute: Step[] = [
  {
    kind: 'where',
    id: 'step-1',
    condition: {
      all: [
        { field: 'status', test: { op: 'isNot', values: ['planned', 'boarding', 'cancelled'] } },
        { field: 'delay_minutes', test: { op: 'filled' } },
      ],
    },
  },
  {
    kind: 'derive',
    id: 'step-2',
    name: 'on time',
    making: { kind: 'expression', text: 'CASE WHEN delay_minutes > 5 THEN 0 ELSE 1 END' },
  },
  {
    kind: 'summarise',
    id: 'step-3',
    by: [{ field: 'route', as: 'route' }],
    measures: [{ name: 'rate', calculation: { kind: 'average', field: 'on time' } }],
  },
];
