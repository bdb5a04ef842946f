import { readdirSync, readFileSync } from 'node:fs';
import type { APIRequestContext, Browser } from '@playwright/test';
import { demoPassword } from '../demo/people.ts';
import { installation } from './support/installation.ts';
import { databaseServer, expect, pageOf, paneOf, test, widthBeyond, withDatabase } from './support/people.ts';
import { home } from './support/stops.ts';

/* What an attacker tries from the address bar, with values and with guesses: nothing passes. */

const brief = '/desk/skerry-sound/morning-brief';
const odd = [
  `<img src=x onerror="document.title='owned'">`,
  "Robert'); DROP TABLE sailings; --",
  '🚢🌊 مرسى السفن — 渡し船',
  `"${'long '.repeat(99)}"`,
];

test('values with markup, quotes, emoji, right-to-left text and 500 characters are only ever text', async ({
  browser,
}) => {
  // Days that the demo's clock has done with, so that it does not write over what is planted here.
  const last = new Date(Date.now() - 3 * 86_400_000).toISOString().slice(0, 10);
  await withDatabase('sound_ops', async (client) => {
    for (const [index, cause] of odd.entries())
      await client.query(
        `UPDATE sailings SET cause = $1 WHERE id = (SELECT id FROM sailings WHERE delay_minutes > 10
           AND (departs_at AT TIME ZONE 'Europe/London')::date <= $3 ORDER BY departs_at DESC, id OFFSET $2 LIMIT 1)`,
        [cause, index, last],
      );
  });
  const page = await pageOf(browser, 'reader');
  await page.goto(`${brief}?departing=~dates.~${last}`);
  const table = paneOf(page, 'Late sailings, latest first');
  await expect(table.getByRole('row').nth(1)).toContainText('<img src=x');
  await expect(table.getByRole('row').nth(2)).toContainText("Robert');");
  const chart = paneOf(page, 'Why they were late');
  await chart.hover();
  await chart.getByRole('button', { name: 'Show as a table' }).click();
  for (const [at, cause] of odd.entries()) {
    await chart
      .getByRole('row')
      .filter({ hasText: cause })
      .getByRole('rowheader')
      .getByRole('button')
      .click();
    await expect(table).toContainText('1 sailing');
    await expect(page.getByRole('region', { name: 'What this page shows' })).toContainText(
      `looking at cause ${cause.slice(0, 20)}`,
    );
    const shown = page.getByRole('region', { name: 'What this page shows' });
    // The address holds it: the longest is read from there too.
    if (at === odd.length - 1) {
      await page.reload();
      await expect(table).toContainText('1 sailing');
    }
    // A key does nothing until the page has taken over what the server drew.
    await expect(async () => {
      await page.keyboard.press('Escape');
      await expect(shown).not.toContainText('looking at', { timeout: 500 });
    }).toPass();
    await chart.hover();
    const show = chart.getByRole('button', { name: 'Show as a table' });
    if (await show.isVisible()) await show.click();
  }
  // The drawing writes what is under the pointer as text, too.
  await chart.getByRole('button', { name: 'Show as a chart' }).click();
  await chart.locator('.apexcharts-bar-area').first().hover();
  expect(await page.title()).not.toContain('owned');
  expect(await page.locator('img[src="x"]').count()).toBe(0);
  expect(await widthBeyond(page)).toBeLessThanOrEqual(0);
  await page.context().close();
});

test('a search for % or _ finds those letters, not everything', async ({ browser }) => {
  const page = await pageOf(browser, 'reader');
  await page.goto(brief);
  const table = paneOf(page, 'Late sailings, latest first');
  await table.getByRole('searchbox').fill('%');
  await expect(table).toContainText('No sailings contain “%”.');
  await table.getByRole('searchbox').fill('_');
  await expect(table).toContainText('No sailings contain “_”.');
  await page.context().close();
});

async function answered(request: APIRequestContext, path: string, body: unknown): Promise<[number, string]> {
  const sent = await request.post(path, {
    headers: { Origin: installation().url, 'Content-Type': 'application/json' },
    data: typeof body === 'string' ? body : JSON.stringify(body),
  });
  return [sent.status(), await sent.text()];
}

test('what an editor sends is refused with why, whatever it is, and nothing of it is saved', async ({
  browser,
}) => {
  const page = await pageOf(browser, 'analyst');
  await page.goto('/workroom');
  const draft = (await page.getByRole('link', { name: 'Morning brief' }).getAttribute('href')) ?? '';
  const id = draft.split('/').at(-1) ?? '';
  const { request } = page.context();
  const before = await withDatabase(
    'postgres',
    async (client) =>
      (await client.query('SELECT revision, draft FROM dashboards WHERE id = $1', [id])).rows[0],
  );
  const base = before.draft;
  const nest = (levels: number): unknown =>
    levels === 0 ? { field: 'cause', test: { op: 'blank' } } : { all: [nest(levels - 1)] };
  const withPane = (change: object): object => ({ ...base, panes: [{ ...base.panes[0], ...change }] });
  for (const body of [
    '',
    '{',
    'null',
    '[]',
    { draft: {}, base, revision: 1 },
    { draft: withPane({ keeping: nest(40) }), base, revision: before.revision },
    { draft: withPane({ place: { x: -1, y: 0, w: 99, h: 1 } }), base, revision: before.revision },
    { draft: { ...base, panes: [base.panes[0], base.panes[0]] }, base, revision: before.revision },
  ]) {
    const [status, text] = await answered(request, `/workroom/dashboards/${id}/save`, body);
    expect([status, text.includes('refused')]).toEqual([200, true]);
  }
  const deep = await answered(request, `/workroom/dashboards/${id}/save`, {
    draft: withPane({ keeping: nest(40) }),
    base,
    revision: before.revision,
  });
  expect(deep[1]).toContain('8 levels deep');
  const after = await withDatabase(
    'postgres',
    async (client) => (await client.query('SELECT revision FROM dashboards WHERE id = $1', [id])).rows[0],
  );
  expect(after.revision).toBe(before.revision);
  for (const path of ['/workroom/preview', '/workroom/try']) {
    const [status, text] = await answered(request, path, { nonsense: true });
    expect([status, /bad-request/.test(text)]).toEqual([200, true]);
  }
  await page.context().close();
});

test('numbers and records that are asked for wrongly are refused with why', async ({ browser }) => {
  const page = await pageOf(browser, 'analyst');
  await page.goto('/workroom');
  const id =
    ((await page.getByRole('link', { name: 'Morning brief' }).getAttribute('href')) ?? '')
      .split('/')
      .at(-1) ?? '';
  const { request } = page.context();
  const said = async (path: string): Promise<string> => (await request.get(`/view/${id}/${path}`)).text();
  expect(await said('behind?_cell=%7B')).toContain('does not say which number');
  expect(await said('behind?_cell=%7B%22pane%22%3A%22nowhere%22%7D')).toContain('is not on this dashboard');
  expect(await said('record?_pane=ships&_key=1')).toContain('is not on this dashboard');
  expect(await said("record?_pane=late&_key=1'%20OR%201=1")).toContain('invalid input syntax');
  expect(await said('values?_clause=nowhere')).toContain('there is no clause');
  expect(await said('panes?_panes=nowhere')).toBe('');
  expect((await request.get(`/view/${id}x/panes`)).status()).toBe(404);
  await page.context().close();
});

test('a sign-in never leads to another site', async ({ request }) => {
  const home = installation().url;
  for (const to of [
    'https://elsewhere.example/',
    '//elsewhere.example/',
    '/\\elsewhere.example',
    '/\t/elsewhere.example',
    '/\n/elsewhere.example',
    '/..//workroom',
    'javascript:alert(1)',
  ]) {
    const answer = await request.post(`${home}/sign-in?to=${encodeURIComponent(to)}`, {
      form: { email: 'reader@skerry.example', password: demoPassword },
      headers: { Origin: home },
      maxRedirects: 0,
    });
    expect(answer.status()).toBe(302);
    // Resolved as a browser does it, for which a backslash is a slash.
    const led = new URL(answer.headers().location ?? 'https://nowhere.example', home);
    expect(led.origin).toBe(home);
  }
});

test('addresses that say what nobody may hear are answered as if it did not exist', async ({ browser }) => {
  const page = await pageOf(browser, 'reader');
  await page.goto(brief);
  const id = /\/view\/([0-9a-f-]{36})\//.exec(await page.content())?.[1] ?? (await viewId(browser));
  const { request } = page.context();
  const get = async (path: string): Promise<string> =>
    (await request.get(`${home()}/view/${id}/${path}`)).text();
  // A field that no pane shows is as one that does not exist, in every parameter.
  for (const part of [
    'and=sailings.FIELD%3D1',
    'at=sailings.FIELD:1',
    'late.order=-FIELD',
    'late.show=FIELD',
  ]) {
    const [hidden, nowhere] = await Promise.all(
      ['master_id', 'nowhere'].map(async (field) =>
        (await get(`panes?_panes=late,causes&${part.replace('FIELD', field)}`))
          .replaceAll(/"(took|trueAt)":[^,}]*/g, '')
          .split('\n')
          .sort()
          .join('\n'),
      ),
    );
    expect(hidden).toBe(nowhere);
  }
  // A record that the pane does not keep is not found through it.
  expect(await get('record?_pane=late&_key=1')).toContain('"record":null');
  await page.context().close();
});

/** The id of the morning brief, as an analyst's page has it. */
async function viewId(browser: Browser): Promise<string> {
  const page = await pageOf(browser, 'analyst');
  await page.goto('/workroom');
  const href = (await page.getByRole('link', { name: 'Morning brief' }).getAttribute('href')) ?? '';
  await page.context().close();
  return href.split('/').at(-1) ?? '';
}

test('control characters in addresses are refused, private pages are never stored, scripts are, and every answer is sniffed by nobody', async ({
  browser,
}) => {
  const page = await pageOf(browser, 'reader');
  const { request } = page.context();
  for (const path of ['/desk/%00', '/desk/%0aX', '/desk/skerry-sound/morning-brief?departing=%00'])
    expect([path, (await request.get(`${home()}${path}`)).status()]).toEqual([path, 400]);
  for (const path of [brief, `${brief}.data`]) {
    const headers = (await request.get(`${home()}${path}`)).headers();
    expect(headers['cache-control']).toContain('no-store');
    expect(headers['x-content-type-options']).toBe('nosniff');
  }
  expect((await request.get(`${home()}/mark.svg`)).headers()['x-content-type-options']).toBe('nosniff');
  // Scripts are everybody’s, and named after what they hold: they are fetched once.
  const script = /\/assets\/[^"]+\.js/.exec(await (await request.get(`${home()}${brief}`)).text())?.[0];
  const { 'cache-control': kept, 'content-encoding': packed } = (
    await request.get(`${home()}${script}`)
  ).headers();
  expect(kept?.split(/, */)).toEqual(['public', 'max-age=31536000', 'immutable']);
  expect(packed).toBe('br');
  await page.context().close();
});

test('guesses at a password are slowed down however they are written, and the rightful owner still gets in', async ({
  browser,
  request,
}) => {
  const guess = (email: string) =>
    request.post(`${home()}/sign-in`, {
      form: { email, password: 'wrong' },
      headers: { Origin: home() },
      maxRedirects: 0,
    });
  const first = await pageOf(browser, 'supervisor');
  await first.context().close();
  const answers = await Promise.all(
    Array.from({ length: 40 }, (_, at) =>
      guess(`${' '.repeat(at % 5)}supervisor@skerry.example${' '.repeat(at % 3)}`),
    ),
  );
  const texts = await Promise.all(answers.map((answer) => answer.text()));
  expect(texts.filter((text) => text.includes('Too many tries')).length).toBeGreaterThan(25);
  // The owner, whose browser has signed in before, is let in at once with the right password.
  const owner = await pageOf(browser, 'supervisor');
  const again = await owner.context().request.post(`${home()}/sign-in`, {
    form: { email: 'supervisor@skerry.example', password: demoPassword },
    headers: { Origin: home() },
    maxRedirects: 0,
  });
  expect(again.status()).toBe(302);
  await owner.context().close();
  await withDatabase(databaseServer().pathname.slice(1), (client) => client.query('DELETE FROM rate_limits'));
});

test('values of records are only ever text in a chart’s legend and tooltip', async ({ browser }) => {
  const reader = await pageOf(browser, 'reader');
  const { request } = reader.context();
  const policy = (await request.get(`${home()}${brief}`)).headers()['content-security-policy'] ?? '';
  expect(policy).toMatch(/style-src 'self' 'nonce-[^']+'/);
  expect(policy).not.toContain("style-src 'self' 'unsafe-inline'");
  const refused: string[] = [];
  reader.on('console', (message) => {
    if (/Content Security Policy/.test(message.text())) refused.push(message.text());
  });
  await reader.goto('/desk/skerry-sound/vessel-upkeep');
  const chart = paneOf(reader, 'Unfinished orders by vessel and priority');
  await chart.locator('.apexcharts-bar-area').first().hover();
  await chart.getByRole('button', { name: 'Urgent' }).press('Enter');
  await expect(chart.getByRole('button', { name: 'Urgent' })).toHaveAttribute('aria-pressed', 'false');
  expect(refused).toEqual([]);
  await reader.context().close();
});

test('no script that browsers get has come with code of the server', () => {
  const folder = 'build/client/assets';
  const scripts = readdirSync(folder).filter((name) => name.endsWith('.js'));
  expect(scripts.length).toBeGreaterThan(50);
  const ofServer = scripts.filter((name) =>
    /pg_notify|SLATE_DATABASE/.test(readFileSync(`${folder}/${name}`, 'utf8')),
  );
  expect(ofServer).toEqual([]);
});
