import { timingSafeEqual } from 'node:crypto';
import { sql } from 'drizzle-orm';
import { type Request, type Response, Router } from 'express';
import client from 'prom-client';
import { settings } from './settings.ts';
import { database } from './store/database.ts';

/* What programs that look after an installation ask: whether it lives, whether it can serve, and how it does. */

const readyMs = 2_000;

const registry = new client.Registry<client.OpenMetricsContentType>();
registry.setContentType(client.Registry.OPENMETRICS_CONTENT_TYPE);
const process_ = { process: String(process.pid) };
registry.setDefaultLabels(process_);
client.collectDefaultMetrics({ register: registry });

const answers = new client.Histogram({
  name: 'slate_http_answer_seconds',
  help: 'Time until an answer was sent, by the class of its status.',
  labelNames: ['method', 'status'] as const,
  buckets: [0.01, 0.03, 0.1, 0.3, 1, 3, 10, 30],
  registers: [registry],
});

/** Counts an answer that was sent. Seconds. */
export const countAnswer = (method: string, status: number, seconds: number): void =>
  answers.observe({ method, status: `${Math.floor(status / 100)}xx` }, seconds);

/** Counts that are true of the whole installation, whichever process is asked. */
const counts = {
  slate_people: ['People with an account.', 'SELECT count(*) FROM users'],
  slate_sessions: ['Sessions that last.', 'SELECT count(*) FROM sessions WHERE expires_at > now()'],
  slate_dashboards: ['Dashboards, published or not.', 'SELECT count(*) FROM dashboards'],
  slate_data_sets: ['Data sets.', 'SELECT count(*) FROM data_sets'],
  slate_sources_away: ['Sources that do not answer.', 'SELECT count(*) FROM outages'],
  slate_refreshes_failing: [
    'Data sets whose last refresh failed.',
    'SELECT count(*) FROM kept WHERE failures > 0',
  ],
  slate_refreshes_running: ['Refreshes under way.', "SELECT count(*) FROM refreshes WHERE state = 'running'"],
  slate_kept_bytes: ['Bytes of kept records.', 'SELECT coalesce(sum(size), 0) FROM segments'],
  slate_changes_unknown: [
    'Changes of records of which it is not known what became of them.',
    "SELECT count(*) FROM change_batches WHERE state = 'unknown'",
  ],
} as const;

const gauges = Object.entries(counts).map(
  ([name, [help]]) => new client.Gauge({ name, help, registers: [registry] }),
);

async function readCounts(): Promise<void> {
  const query = Object.values(counts).map(([, text], at) => `(${text})::float8 AS c${at}`);
  const { rows } = await database().execute<Record<string, number>>(sql.raw(`SELECT ${query.join(', ')}`));
  for (const [at, gauge] of gauges.entries()) gauge.set(Number(rows[0]?.[`c${at}`] ?? 0));
}

async function isReady(): Promise<boolean> {
  const answered = database()
    .execute(sql`SELECT 1 FROM users LIMIT 1`)
    .then(() => true);
  const late = new Promise<false>((resolve) => setTimeout(() => resolve(false), readyMs).unref());
  return Promise.race([answered, late]).catch(() => false);
}

function mayCollect(request: Request): boolean {
  const [token, sent] = [settings().SLATE_METRICS_TOKEN, request.get('authorization') ?? ''].map((text) =>
    Buffer.from(text),
  );
  const wanted = Buffer.from(`Bearer ${token}`);
  return (
    token !== undefined && token.length > 0 && sent?.length === wanted.length && timingSafeEqual(sent, wanted)
  );
}

/** Routes that need nobody to be signed in. */
export function healthRoutes(): Router {
  const routes = Router();
  routes.get('/health', (_, response) => void response.type('text/plain').send('alive'));
  routes.get('/ready', async (_, response) => {
    const ready = await isReady();
    response
      .status(ready ? 200 : 503)
      .type('text/plain')
      .send(ready ? 'ready' : 'our database does not answer');
  });
  routes.get('/metrics', async (request: Request, response: Response) => {
    if (settings().SLATE_METRICS_TOKEN === '') {
      response.status(404).type('text/plain').send('There are no metrics here.');
      return;
    }
    if (!mayCollect(request)) {
      response.status(401).set('WWW-Authenticate', 'Bearer').type('text/plain').send('A token is needed.');
      return;
    }
    await readCounts();
    response.type(registry.contentType).send(await registry.metrics());
  });
  return routes;
}
