import { Agent, type IncomingMessage, request } from 'node:http';
import { text } from 'node:stream/consumers';
import { demoPassword } from '../demo/people.ts';
import { publishDraft } from './support/build.ts';
import { installation, running } from './support/installation.ts';
import { copyOfDashboard, unique } from './support/make.ts';
import { databaseServer, expect, pageOf, paneOf, test, withDatabase } from './support/people.ts';

/* What several processes that serve one address hold together. Whichever is free takes a new connection, and keeps it. */

const brief = '/desk/skerry-sound/morning-brief';

interface Answered {
  readonly status: number;
  readonly cookie: string;
  readonly body: string;
}

/** A connection of its own, which stays with the process that took it. */
function connection() {
  const agent = new Agent({ keepAlive: true, maxSockets: 1 });
  const begin = (path: string, cookie: string, form?: Record<string, string>): Promise<IncomingMessage> =>
    new Promise((resolve, reject) => {
      const sent = request(`${installation().url}${path}`, {
        agent,
        method: form ? 'POST' : 'GET',
        headers: {
          cookie,
          ...(form
            ? { origin: installation().url, 'content-type': 'application/x-www-form-urlencoded' }
            : {}),
        },
      });
      sent.once('response', resolve);
      sent.once('error', reject);
      sent.end(form ? new URLSearchParams(form).toString() : undefined);
    });
  return {
    begin,
    async ask(path: string, cookie = '', form?: Record<string, string>): Promise<Answered> {
      const answer = await begin(path, cookie, form);
      return {
        status: answer.statusCode ?? 0,
        cookie: (answer.headers['set-cookie'] ?? []).map((each) => each.split(';')[0]).join('; '),
        body: await text(answer),
      };
    },
    close: () => agent.destroy(),
  };
}

const signIn = { email: 'supervisor@skerry.example', password: demoPassword };

test('two processes serve one address: what is done at one holds at the other', async ({ analyst }) => {
  expect(running('web.mjs').length).toBeGreaterThan(1);
  const [one, other] = [connection(), connection()];
  const { cookie, status } = await one.ask('/sign-in', '', signIn);
  expect(status).toBe(302);
  expect((await other.ask(brief, cookie)).status).toBe(200);

  // What is published, wherever that was, is there for readers of both.
  const title = unique('Two processes');
  const made = await copyOfDashboard('morning-brief', title);
  await analyst.goto(made.address);
  await publishDraft(analyst);
  await expect(analyst.getByText(/^Published/)).toBeVisible();
  for (const reader of [one, other])
    expect((await reader.ask(`/desk/skerry-sound/${made.slug}`, cookie)).body).toContain(title);

  // Wrong guesses are counted together.
  await withDatabase(databaseServer().pathname.slice(1), (client) => client.query('DELETE FROM rate_limits'));
  const guesses: string[] = [];
  for (let at = 0; at < 8; at += 1)
    guesses.push((await (at % 2 ? one : other).ask('/sign-in', '', { ...signIn, password: 'wrong' })).body);
  expect(guesses.filter((body) => body.includes('Too many tries')).length).toBe(3);
  await withDatabase(databaseServer().pathname.slice(1), (client) => client.query('DELETE FROM rate_limits'));

  // So are the browsers of one person that follow changes.
  const { rows } = await withDatabase(databaseServer().pathname.slice(1), (client) =>
    client.query<{ id: string }>(`SELECT id FROM dashboards WHERE slug = 'morning-brief'`),
  );
  const lines = await Promise.all(
    Array.from({ length: 31 }, async () => {
      const line = connection();
      return { line, answer: await line.begin(`/live?watch=${rows[0]?.id}`, cookie) };
    }),
  );
  const statuses = lines.map(({ answer }) => answer.statusCode).sort();
  expect(statuses).toEqual([...Array.from({ length: 30 }, () => 200), 429]);
  for (const { line } of lines) line.close();

  // Who signs out at one is signed out at the other.
  await one.ask('/sign-out', cookie, {});
  expect((await other.ask(brief, cookie)).status).toBe(302);
  one.close();
  other.close();
});

test('a process that ends is started again: the others go on, and pages mend by themselves', async ({
  browser,
}) => {
  const reader = await pageOf(browser, 'reader');
  await reader.goto(brief);
  const cards = paneOf(reader, 'Sailings today');
  await expect(cards.getByRole('link')).toBeVisible();
  const before = running('web.mjs');
  process.kill(before[0] ?? 0, 'SIGKILL');
  const answers = await Promise.all(
    Array.from({ length: 6 }, () =>
      // A connection that the process had taken already is lost with it, and the page is asked for again.
      reader.context().request.get(`${installation().url}${brief}`, { maxRetries: 3 }),
    ),
  );
  expect(answers.map((answer) => answer.status())).toEqual([200, 200, 200, 200, 200, 200]);
  await expect.poll(() => running('web.mjs').filter((id) => id !== before[0]).length).toBe(before.length);

  const [asking = 0] = running('records.mjs');
  process.kill(asking, 'SIGKILL');
  await reader.reload();
  await expect(cards.getByRole('link')).toBeVisible();
  expect(running('records.mjs')).toHaveLength(1);
  expect(running('records.mjs')).not.toContain(asking);
  await reader.context().close();
});
