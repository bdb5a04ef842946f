import type pg from 'pg';
import { dayOf, shiftDay } from '#core/value/period/period.ts';
import { crew, routeName, routes, terminals, vesselPicture, vessels, zone } from './line.ts';
import { daysBetween, incidentsOf, sailingsOf } from './sailings.ts';
import { workOrdersAt } from './work-orders.ts';

/** Days of sailings before today, and after. */
const past = 547;
const ahead = 14;

const tables = `
CREATE TABLE terminals (id int PRIMARY KEY, code text NOT NULL UNIQUE, name text NOT NULL, berths int NOT NULL);
CREATE TABLE routes (id int PRIMARY KEY, name text NOT NULL UNIQUE, from_terminal_id int NOT NULL REFERENCES terminals, to_terminal_id int NOT NULL REFERENCES terminals, minutes int NOT NULL);
CREATE TABLE vessels (id int PRIMARY KEY, name text NOT NULL UNIQUE, built int NOT NULL, passengers int NOT NULL, vehicles int NOT NULL, picture text NOT NULL);
CREATE TABLE crew (id int PRIMARY KEY, staff_no text NOT NULL UNIQUE, name text NOT NULL, post text NOT NULL, email text NOT NULL);
CREATE TABLE sailings (id bigint PRIMARY KEY, reference text NOT NULL UNIQUE, route_id int NOT NULL REFERENCES routes, vessel_id int NOT NULL REFERENCES vessels,
  master_id int NOT NULL REFERENCES crew, departs_at timestamptz NOT NULL, arrives_at timestamptz NOT NULL, left_at timestamptz, landed_at timestamptz,
  status text NOT NULL, delay_minutes int, cause text, passengers int, vehicles int, fares numeric(12,2));
CREATE INDEX sailings_departs ON sailings (departs_at);
CREATE TABLE incidents (id bigint PRIMARY KEY, sailing_id bigint NOT NULL REFERENCES sailings, kind text NOT NULL, severity text NOT NULL,
  reported_at timestamptz NOT NULL, reported_by int NOT NULL REFERENCES crew, note text, settled_at timestamptz);
CREATE INDEX incidents_sailing ON incidents (sailing_id);
CREATE TABLE work_orders (id int PRIMARY KEY, vessel_id int NOT NULL REFERENCES vessels, title text NOT NULL, priority text NOT NULL, status text NOT NULL,
  opened_at timestamptz NOT NULL, due_on date NOT NULL, done_at timestamptz, assigned_to int REFERENCES crew, estimate_hours text, cost numeric(12,2));
COMMENT ON TABLE sailings IS 'One departure of one vessel on one route';
COMMENT ON COLUMN sailings.delay_minutes IS 'Minutes between the timetable and leaving the berth';
COMMENT ON COLUMN work_orders.estimate_hours IS 'Typed by hand';`;

/** Inserts records given as columns by name: one statement, whatever their number. */
async function insert(
  client: pg.Client,
  table: string,
  records: readonly Record<string, unknown>[],
  types: Record<string, string>,
  conflict = '',
): Promise<void> {
  const names = Object.keys(types);
  const columns = names.map((name) => records.map((record) => record[name] ?? null));
  const unnested = names.map((name, index) => `$${index + 1}::${types[name]}[]`).join(', ');
  await client.query(
    `INSERT INTO ${table} (${names.join(', ')}) SELECT * FROM unnest(${unnested}) ${conflict}`,
    columns,
  );
}

const sailingTypes = {
  id: 'bigint',
  reference: 'text',
  route_id: 'int',
  vessel_id: 'int',
  master_id: 'int',
  departs_at: 'timestamptz',
  arrives_at: 'timestamptz',
  left_at: 'timestamptz',
  landed_at: 'timestamptz',
  status: 'text',
  delay_minutes: 'int',
  cause: 'text',
  passengers: 'int',
  vehicles: 'int',
  fares: 'numeric',
};
const incidentTypes = {
  id: 'bigint',
  sailing_id: 'bigint',
  kind: 'text',
  severity: 'text',
  reported_at: 'timestamptz',
  reported_by: 'int',
  note: 'text',
  settled_at: 'timestamptz',
};

/** Names as the tables have them. */
const snake = (record: object): Record<string, unknown> =>
  Object.fromEntries(
    Object.entries(record).map(([name, value]) => [
      name.replace(/[A-Z]/g, (letter) => `_${letter.toLowerCase()}`),
      value,
    ]),
  );

const upsert = (types: Record<string, string>): string =>
  `ON CONFLICT (id) DO UPDATE SET ${Object.keys(types)
    .filter((name) => name !== 'id')
    .map((name) => `${name} = EXCLUDED.${name}`)
    .join(', ')}`;

async function putDays(client: pg.Client, days: readonly string[], now: Date): Promise<void> {
  const sailings = days.flatMap((day) => sailingsOf(day, now));
  await insert(client, 'sailings', sailings.map(snake), sailingTypes, upsert(sailingTypes));
  const incidents = sailings.flatMap((sailing) => incidentsOf(sailing, now));
  await insert(client, 'incidents', incidents.map(snake), incidentTypes, upsert(incidentTypes));
}

/** Makes the tables and fills them with the eighteen months up to a moment, and the timetable of the next two weeks. */
export async function fillSoundOps(client: pg.Client, now: Date): Promise<void> {
  await client.query('BEGIN');
  await client.query(tables);
  await insert(client, 'terminals', terminals, { id: 'int', code: 'text', name: 'text', berths: 'int' });
  await insert(
    client,
    'routes',
    routes.map((route) => ({
      id: route.id,
      name: routeName(route),
      from_terminal_id: route.from,
      to_terminal_id: route.to,
      minutes: route.minutes,
    })),
    { id: 'int', name: 'text', from_terminal_id: 'int', to_terminal_id: 'int', minutes: 'int' },
  );
  const pictured = vessels.map((vessel) => ({
    ...vessel,
    picture: `data:image/svg+xml;base64,${Buffer.from(vesselPicture(vessel)).toString('base64')}`,
  }));
  await insert(client, 'vessels', pictured, {
    id: 'int',
    name: 'text',
    built: 'int',
    passengers: 'int',
    vehicles: 'int',
    picture: 'text',
  });
  await insert(client, 'crew', crew.map(snake), {
    id: 'int',
    staff_no: 'text',
    name: 'text',
    post: 'text',
    email: 'text',
  });
  const today = dayOf(now, zone);
  const days = daysBetween(shiftDay(today, 'day', -past), shiftDay(today, 'day', ahead));
  for (let at = 0; at < days.length; at += 60) await putDays(client, days.slice(at, at + 60), now);
  const orders = workOrdersAt(now).map(({ estimate, ...order }) => ({
    ...snake(order),
    estimate_hours: estimate,
  }));
  await insert(client, 'work_orders', orders, {
    id: 'int',
    vessel_id: 'int',
    title: 'text',
    priority: 'text',
    status: 'text',
    opened_at: 'timestamptz',
    due_on: 'date',
    done_at: 'timestamptz',
    assigned_to: 'int',
    estimate_hours: 'text',
    cost: 'numeric',
  });
  await client.query('COMMIT');
  await client.query('ANALYZE');
}

/** Brings the sailings up to a moment: those since it was last done as they stand now, and the timetable so far ahead. */
export async function advanceSoundOps(client: pg.Client, now: Date, days = ahead): Promise<void> {
  const today = dayOf(now, zone);
  const { rows } = await client.query<{ last: string | null }>(
    `SELECT to_char(max(departs_at) AT TIME ZONE '${zone}', 'YYYY-MM-DD') AS last FROM sailings WHERE left_at IS NOT NULL`,
  );
  const yesterday = shiftDay(today, 'day', -1);
  const from = rows[0]?.last && rows[0].last < yesterday ? rows[0].last : yesterday;
  await client.query('BEGIN');
  await putDays(client, daysBetween(from, shiftDay(today, 'day', days)), now);
  await client.query('COMMIT');
}
