import { randomBytes, randomUUID } from 'node:crypto';
import pg from 'pg';
import { outgoingHosts } from '#server/settings.ts';
import { addDashboard, publish } from '#server/store/dashboards.ts';
import { addDataSet } from '#server/store/data-sets.ts';
import { addDesk, listDesks } from '#server/store/desks.ts';
import { putGroup } from '#server/store/groups.ts';
import { addUser, peopleWhoRead } from '#server/store/people.ts';
import { addSource, builtInSource, setChanger } from '#server/store/sources.ts';
import { followUpsConnection } from '#sources/follow-ups/connection.ts';
import { addressOf, type PostgresConnection } from '#sources/postgres/connection.ts';
import { discover } from '#sources/postgres/discover.ts';
import { testPostgres } from '#sources/postgres/prove.ts';
import { gateTraffic } from './dashboards/gate-traffic.ts';
import { incidents } from './dashboards/incidents.ts';
import { morningBrief } from './dashboards/morning-brief.ts';
import { passageTrace } from './dashboards/passage-trace.ts';
import { requisitions } from './dashboards/requisitions.ts';
import { routePunctuality } from './dashboards/route-punctuality.ts';
import { vesselUpkeep } from './dashboards/vessel-upkeep.ts';
import { type DemoDataSet, type DemoIds, demoDataSets } from './data-sets.ts';
import { type FollowedIds, incidentsToSettle, noteIncidents } from './incidents.ts';
import { zone } from './line.ts';
import { demoPassword, demoPeople, supervisor } from './people.ts';
import { addServices } from './services.ts';
import { addShaped } from './shaped.ts';
import { advanceSoundOps, fillSoundOps } from './sound-ops.ts';
import type { StandInAccess } from './stand-in-access.ts';

const databaseName = 'sound_ops';
/** May only read, and is what the demo's source signs in as. */
const readerRole = 'sound_reader';
/** May change records. */
const operatorRole = 'sound_operator';

async function connected<T>(url: string, use: (client: pg.Client) => Promise<T>): Promise<T> {
  const client = new pg.Client({ connectionString: url });
  await client.connect();
  try {
    return await use(client);
  } finally {
    await client.end();
  }
}

function inDatabase(url: string, name: string): string {
  const changed = new URL(url);
  changed.pathname = `/${name}`;
  return changed.href;
}

/** Makes the operation's own database and its two roles. Returns their passwords. */
async function makeSoundOps(url: string, now: Date): Promise<{ reader: string; operator: string }> {
  const passwords = [randomBytes(18).toString('base64url'), randomBytes(18).toString('base64url')];
  await connected(url, async (client) => {
    await client.query(`DROP DATABASE IF EXISTS ${databaseName} WITH (FORCE)`);
    for (const [index, role] of [readerRole, operatorRole].entries()) {
      const known = await client.query('SELECT 1 FROM pg_roles WHERE rolname = $1', [role]);
      await client.query(
        `${known.rowCount ? 'ALTER' : 'CREATE'} ROLE ${role} LOGIN PASSWORD ${client.escapeLiteral(passwords[index] ?? '')}`,
      );
    }
    await client.query(`CREATE DATABASE ${databaseName}`);
  });
  await connected(inDatabase(url, databaseName), async (client) => {
    await fillSoundOps(client, now);
    await client.query(`GRANT SELECT ON ALL TABLES IN SCHEMA public TO ${readerRole}, ${operatorRole}`);
    await client.query(`GRANT INSERT, UPDATE, DELETE ON ALL TABLES IN SCHEMA public TO ${operatorRole}`);
  });
  const [reader = '', operator = ''] = passwords;
  return { reader, operator };
}

/**
 * Fills an empty installation with the demo: people, the source, data sets, and published dashboards. Does nothing when
 * there is a desk already. `url` reaches the server that the demo's own database is to live on; `standIns` the services.
 */
export async function fillDemo(url: string, now: Date, standIns: StandInAccess | null): Promise<void> {
  if ((await listDesks()).length > 0) return;
  const passwords = await makeSoundOps(url, now);
  const password = passwords.reader;
  const server = new URL(url);
  const connection: PostgresConnection = {
    kind: 'postgres',
    host: server.hostname,
    port: Number(server.port || 5432),
    database: databaseName,
    user: readerRole,
    tls: 'off',
  };
  const address = addressOf(connection, password, outgoingHosts());
  const report = await testPostgres(address, () => new Date());
  const ids: DemoIds = {
    source: randomUUID(),
    sailings: randomUUID(),
    incidents: randomUUID(),
    orders: randomUUID(),
    waiting: randomUUID(),
  };
  await addSource({
    id: ids.source,
    name: 'Sound operations',
    connection,
    report,
    secret: password,
    madeBy: null,
  });
  await setChanger(ids.source, { user: operatorRole, secret: passwords.operator });
  const tables = await discover(address);
  const dataSets = demoDataSets(ids, tables);
  const followed: FollowedIds = {
    source: await builtInSource(followUpsConnection, null),
    incidents: ids.incidents,
    notes: randomUUID(),
    toSettle: randomUUID(),
  };
  const [found] = dataSets.filter(({ id }) => id === ids.incidents);
  if (!found) throw new Error('the demo has no incidents');
  for (const dataSet of [...dataSets, ...incidentsToSettle(found.definition, followed)])
    await addDataSet({ ...dataSet, by: null });
  const desk = await addDesk({ slug: 'skerry-sound', name: 'Skerry Sound', zone });
  for (const { role, ...each } of demoPeople)
    await addUser({
      ...each,
      password: demoPassword,
      ...(role === 'administrator' ? { isAdministrator: true } : { roles: { [desk.id]: role } }),
    });
  // Whoever signs in as staff of these is in them.
  for (const [name, providerName, role] of [
    ['Deck crew', 'deck', 'reader'],
    ['Upkeep yard', 'yard', 'supervisor'],
  ] as const)
    await putGroup(null, { name, providerName, roles: { [desk.id]: role } });
  const services = standIns ? await addServices(standIns) : null;
  await addShaped(ids.source, tables, now);
  for (const [slug, draft] of [
    ['morning-brief', morningBrief(ids)] as const,
    ['route-punctuality', routePunctuality(ids)] as const,
    ['vessel-upkeep', vesselUpkeep(ids)] as const,
    ['incidents', incidents(followed)] as const,
    ...(services
      ? [
          ['gate-traffic', gateTraffic(services)] as const,
          ['passage-trace', passageTrace(services)] as const,
          ['requisitions', requisitions(services)] as const,
        ]
      : []),
  ]) {
    const id = randomUUID();
    await addDashboard({ id, deskId: desk.id, slug, draft, by: null });
    await publish(id, null, null);
    if (slug === 'incidents') await noteFirst(inDatabase(url, databaseName), { deskId: desk.id, id }, found);
  }
}

/** What the supervisor has noted already of some incidents that are not settled. */
async function noteFirst(
  url: string,
  { deskId, id }: { readonly deskId: string; readonly id: string },
  dataSet: DemoDataSet,
): Promise<void> {
  const [by] = await peopleWhoRead(deskId, { find: supervisor.email, except: null, limit: 1 });
  const { rows } = await connected(url, (client) =>
    client.query<{ key: string; title: string }>(
      'SELECT id::text AS key, kind AS title FROM incidents WHERE settled_at IS NULL ORDER BY reported_at OFFSET 2 LIMIT 3',
    ),
  );
  if (by) await noteIncidents(rows, { deskId, dashboardId: id, pane: 'followed', by }, dataSet);
}

const tickMs = 30_000;

/** Keeps the demo's day moving: sailings leave and land as the clock goes on. Returns how to stop it. */
export async function runDemoClock(url: string): Promise<() => void> {
  const advance = (days?: number): Promise<void> =>
    connected(inDatabase(url, databaseName), (client) => advanceSoundOps(client, new Date(), days));
  await advance();
  const timer = setInterval(() => void advance(0).catch(() => undefined), tickMs);
  timer.unref();
  return () => clearInterval(timer);
}
