import { randomUUID } from 'node:crypto';
import { startOf, withOutcome } from '#core/dataset/outcome.ts';
import { aboutChanger, sealWith } from '#server/secrets.ts';
import type { Connection } from '#sources/connection.ts';
import { migrateDataSet } from '../../core/dashboard/migrate.ts';
import type { Dashboard } from '../../core/dashboard/schema.ts';
import type { DataSet } from '../../core/dataset/schema.ts';
import type { Step } from '../../core/dataset/step/schema.ts';
import { installation } from './installation.ts';
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

/** A source as somebody has added it, who also said as whom its records are changed. */
export async function sourceOf(
  connection: Connection,
  { secret, changer }: { secret: string; changer: { user: string; secret: string } },
): Promise<string> {
  const id = randomUUID();
  const sealed = (text: string, about: string): Buffer =>
    sealWith(Buffer.from(installation().key, 'base64'), text, about);
  await withDatabase('postgres', (client) =>
    client.query(
      `INSERT INTO sources (id, name, connection, secret, changer, changer_secret, proof)
       VALUES ($1, $2, $3, $4, $5, $6, '{"facts": [], "warnings": [], "clockSkewMs": null, "tookMs": 0}')`,
      [
        id,
        unique('Source'),
        JSON.stringify(connection),
        sealed(secret, id),
        changer.user,
        sealed(changer.secret, aboutChanger(id)),
      ],
    ),
  );
  return id;
}

/** The id of a source of the demo. */
export const sourceCalled = (name: string): Promise<string> =>
  withDatabase('postgres', async (client) => {
    const { rows } = await client.query<{ id: string }>('SELECT id FROM sources WHERE name = $1', [name]);
    if (!rows[0]) throw new Error(`the demo has no source “${name}”`);
    return rows[0].id;
  });

/** A data set as it is defined. */
export async function dataSetOf(name: string, definition: DataSet): Promise<string> {
  const id = randomUUID();
  await withDatabase('postgres', (client) =>
    client.query('INSERT INTO data_sets (id, name, source_id, definition) VALUES ($1, $2, $3, $4)', [
      id,
      name,
      definition.source,
      JSON.stringify(definition),
    ]),
  );
  return id;
}

/** A draft as it is defined, on the demo's desk. Gives where it is edited, and once it is published, read. */
export async function draftOf(draft: Dashboard): Promise<{ edited: string; read: string }> {
  const id = randomUUID();
  const slug = `own-${id.slice(0, 8)}`;
  await withDatabase('postgres', (client) =>
    client.query(
      `INSERT INTO dashboards (id, desk_id, slug, position, draft)
       SELECT $1, id, $2, (SELECT max(position) + 1 FROM dashboards), $3 FROM desks WHERE slug = 'skerry-sound'`,
      [id, slug, JSON.stringify(draft)],
    ),
  );
  return { edited: `/workroom/dashboards/${id}`, read: `/desk/skerry-sound/${slug}` };
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
