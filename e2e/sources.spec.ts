import { appendFileSync, mkdirSync, readFileSync } from 'node:fs';
import path from 'node:path';
import type { Page } from '@playwright/test';
import mysql from 'mysql2/promise';
import { passageClient, StandInAccess, storesUser } from '../demo/stand-in-access.ts';
import { addPane, startDashboard } from './support/build.ts';
import { installation } from './support/installation.ts';
import { choose, expect, pageOf, paneOf, test } from './support/people.ts';
import { linesThere } from './support/stores.ts';

/* From "add a source" to records on a dashboard, for each kind of source. */

const access = (): StandInAccess =>
  StandInAccess.parse(JSON.parse(readFileSync(installation().standIns, 'utf8')));
const service = (): string => `http://127.0.0.1:${access().port}`;

async function startAdding(page: Page, kind: string, name: string): Promise<void> {
  await page.goto('/workroom');
  await page.getByRole('link', { name: 'Add a source' }).first().click();
  await page.getByRole('navigation', { name: 'Kinds of sources' }).getByRole('link', { name: kind }).click();
  await expect(page.getByRole('link', { name: kind, exact: true })).toHaveAttribute('aria-current', 'page');
  await page.getByLabel('Name').fill(name);
}

/** From the page of a source to a new data set of it. */
async function startDataSet(page: Page): Promise<void> {
  await page.waitForURL(/\/workroom\/sources\/[0-9a-f-]{36}/);
  await page.getByRole('main').getByRole('link', { name: 'Make a data set' }).click();
  await page.waitForURL(/data-sets\/new/);
}

async function save(page: Page, name: string, many: string): Promise<void> {
  await page.getByRole('textbox', { name: 'Name', exact: true }).fill(name);
  await page.getByLabel('Several are').fill(many);
  await page.getByRole('button', { name: 'Save data set' }).click();
  await expect(page.getByRole('heading', { level: 1, name })).toBeVisible();
}

/** A dashboard with one number of a data set on it. */
async function count(page: Page, dataSet: string, expected: string | RegExp): Promise<void> {
  await startDashboard(page, `About ${dataSet}`);
  await addPane(page, dataSet, /How many\?/);
  await page.getByLabel('Title', { exact: true }).fill('All of them');
  await page.getByRole('button', { name: 'Save the brief' }).click();
  await expect(paneOf(page, 'All of them')).toContainText(expected);
}

test('an analyst adds a MariaDB database, whose records are fetched when somebody looks', async ({
  analyst,
}) => {
  const root = await mysql.createConnection({
    host: '127.0.0.1',
    port: installation().maria,
    user: 'root',
    multipleStatements: true,
  });
  await root.query(`
    CREATE DATABASE moorings; CREATE TABLE moorings.berths (id INT PRIMARY KEY, name VARCHAR(40), fee DECIMAL(9,2));
    INSERT INTO moorings.berths VALUES (1, 'North pier', 12.50), (2, 'South pier', 0.10), (3, NULL, NULL);
    CREATE USER moorings_reads IDENTIFIED BY 'low-water'; GRANT SELECT ON moorings.* TO moorings_reads`);
  await root.end();
  await startAdding(analyst, 'MariaDB or MySQL', 'Moorings');
  await analyst.getByLabel('Address').fill('127.0.0.1');
  await analyst.getByLabel('Port').fill(String(installation().maria));
  await analyst.getByLabel('Database').fill('moorings');
  await analyst.getByLabel('User').fill('moorings_reads');
  await analyst.getByLabel('Password').fill('wrong');
  await analyst.getByRole('button', { name: 'Test', exact: true }).click();
  await expect(analyst.getByRole('alert')).toContainText('Access denied');
  await analyst.getByLabel('Password').fill('low-water');
  await analyst.getByRole('button', { name: 'Test', exact: true }).click();
  // Real records on the first screen.
  await expect(analyst.getByRole('region', { name: 'Its first records' })).toContainText('South pier');
  await analyst.getByLabel('Password').fill('low-water');
  await analyst.getByRole('button', { name: 'Test and add' }).click();
  await analyst.getByRole('link', { name: 'berths' }).click();
  await expect(analyst.getByRole('region', { name: 'Some of its records' })).toContainText('12.5');
  await startDataSet(analyst);
  await expect(analyst.getByRole('region', { name: 'Its records' })).toContainText('North pier');
  await save(analyst, 'Berths', 'berths');
  await count(analyst, 'Berths', '3');
});

test('an analyst adds an HTTP API, has its records and its paging found, and keeps them', async ({
  analyst,
}) => {
  await startAdding(analyst, 'HTTP API', 'Tides again');
  await analyst.getByLabel('Address', { exact: true }).fill(`${service()}/tide/v2`);
  await choose(analyst.getByLabel('Sign in with'), 'a key in a header or the query');
  await analyst.getByLabel('Under the name').fill('X-Tide-Key');
  await analyst.getByLabel('Key', { exact: true }).fill('not-the-key-of-it');
  await analyst.getByLabel('A path to look at first').fill('observations');
  await analyst.getByRole('button', { name: 'Test', exact: true }).click();
  await expect(analyst.getByRole('alert')).toContainText('the header X-Tide-Key is missing or wrong');
  await expect(analyst.locator('body')).not.toContainText('not-the-key-of-it');
  await analyst.getByLabel('Key', { exact: true }).fill(access().tideKey);
  await analyst.getByLabel('Calls allowed a day').fill('500');
  await analyst.getByRole('button', { name: 'Test', exact: true }).click();
  await expect(analyst.getByRole('region', { name: 'Its first records' })).toContainText('Skerryhaven');
  await analyst.getByLabel('Key', { exact: true }).fill(access().tideKey);
  await analyst.getByRole('button', { name: 'Test and add' }).click();
  await expect(analyst.getByRole('region', { name: 'Calls' })).toContainText('left of 500');

  await startDataSet(analyst);
  await analyst.getByLabel('Path').fill('observations');
  await analyst.getByRole('button', { name: 'Add a query entry' }).click();
  await analyst.getByLabel('Query name 1').fill('hours');
  await analyst.getByLabel('Query value 1').fill('5');
  await analyst.getByRole('button', { name: 'Add a query entry' }).click();
  await analyst.getByLabel('Query name 2').fill('station');
  await analyst.getByLabel('Query value 2').fill('{station}');
  await expect(analyst.getByText('{station}')).toBeVisible();
  await analyst.getByRole('button', { name: 'Try it' }).click();
  await expect(analyst.getByLabel('The records are')).toContainText(/^\$\.data\.items\[\*\] ·/);
  await expect(analyst.getByLabel('The rest is asked for')).toHaveText('by the number of the page');
  await expect(analyst.getByRole('region', { name: 'Its records' })).toContainText('Auldstaithe');
  // Another place in the same answer: the list inside each observation.
  await choose(analyst.getByLabel('The records are'), /^\$\.data\.items\[\*\]\.readings\[\*\] ·/);
  await expect(analyst.getByRole('region', { name: 'Its records' })).toContainText('air_pressure');
  await choose(analyst.getByLabel('The records are'), /^\$\.data\.items\[\*\] ·/);
  await expect(analyst.getByRole('region', { name: 'Its records' })).toContainText('Auldstaithe');
  await save(analyst, 'Tides of five hours', 'observations');
  await count(analyst, 'Tides of five hours', '180');

  // Kept, the service is told where to go on from, and asked only for what is new.
  await analyst.goto('/workroom');
  await analyst.getByRole('link', { name: 'Tides of five hours', exact: true }).click();
  await choose(analyst.getByLabel('Records are', { exact: true }), 'kept here');
  await expect(analyst.getByRole('alert')).toContainText('depend on an input cannot be kept');
  await analyst.getByLabel('Query name 2').fill('since');
  await analyst.getByLabel('Query value 2').fill('{since}');
  await choose(analyst.getByLabel('What identifies a record'), 'id');
  await choose(analyst.getByLabel('Each time fetch'), 'what is new or changed');
  await choose(analyst.getByLabel('Told to the service as'), '{since}');
  await choose(analyst.getByLabel('When', { exact: true }), 'only when somebody asks');
  await expect(analyst.getByText('This cannot be kept so')).toBeHidden();
  await analyst.getByRole('button', { name: 'Save', exact: true }).click();
  await analyst.getByRole('link', { name: 'Kept records' }).click();
  const refreshes = analyst.getByRole('region', { name: 'Refreshes' }).getByRole('row');
  await expect(refreshes.nth(1)).toContainText(/Done.*180/);
  await analyst.getByRole('button', { name: 'Refresh now' }).click();
  await expect(refreshes).toHaveCount(3);
  // The latest of the six stations, and the next where ten minutes have ended meanwhile.
  await expect(refreshes.nth(1).getByRole('cell').nth(3)).toHaveText(/^(6|12)$/);
  await expect(refreshes.nth(1)).toContainText(/Done/);
});

test('an analyst adds a service with a token, described by an OpenAPI document', async ({ analyst }) => {
  await startAdding(analyst, 'HTTP API', 'Passages again');
  await analyst.getByLabel('Address', { exact: true }).fill(`${service()}/passage-service`);
  await choose(analyst.getByLabel('Sign in with'), 'OAuth 2 client credentials');
  await analyst.getByLabel('Address that gives tokens').fill(`${service()}/passage-service/token`);
  await analyst.getByLabel('Client', { exact: true }).fill(passageClient);
  await analyst.getByLabel('Client secret').fill(access().clientSecret);
  await analyst.getByRole('button', { name: 'Test and add' }).click();
  await startDataSet(analyst);
  await analyst.getByRole('button', { name: 'From an OpenAPI document' }).click();
  await analyst
    .getByLabel('An OpenAPI 3 document')
    .fill(
      'openapi: 3.1.0\npaths:\n  /passages:\n    get:\n      summary: Passages, the latest first\n      parameters: [{ name: sailing, in: query }]\n',
    );
  await analyst.getByRole('button', { name: /Passages, the latest first/ }).click();
  await expect(analyst.getByLabel('Path')).toHaveValue('/passages');
  await analyst.getByRole('button', { name: 'Try it' }).click();
  await expect(analyst.getByLabel('The rest is asked for')).toHaveText('by a cursor in the answer');
  await save(analyst, 'Passages by token', 'passages');
  await count(analyst, 'Passages by token', '600');
});

test('an analyst adds an OData service and follows its navigations', async ({ analyst }) => {
  await startAdding(analyst, 'OData service', 'Stores again');
  await analyst.getByLabel('Address', { exact: true }).fill(`${service()}/stores`);
  await choose(analyst.getByLabel('Sign in with'), 'user and password');
  await analyst.getByLabel('User').fill(storesUser);
  await analyst.getByLabel('Password').fill(access().storesPassword);
  await analyst.getByRole('button', { name: 'Test and add' }).click();
  await analyst.getByRole('link', { name: /RequisitionLines/ }).click();
  await expect(analyst.getByRole('region', { name: 'RequisitionLines' })).toContainText('Decimal');
  await startDataSet(analyst);
  await expect(analyst.getByRole('region', { name: 'Its records' })).toContainText(/P-0\d{3}/);
  await save(analyst, 'Lines again', 'lines');
  await count(analyst, 'Lines again', await linesThere());
});

test('an analyst adds log files, reads their lines by a pattern, and they are followed', async ({
  analyst,
}) => {
  const folder = path.join(access().logs, 'bridge');
  mkdirSync(folder);
  const write = (text: string): void => appendFileSync(path.join(folder, 'bridge.log'), text);
  write('06:40 opened Kittiwake 12\n06:41 closed Eider 7\nthe tide is in\n');
  await startAdding(analyst, 'Log files', 'Bridge');
  await analyst.getByLabel('Folder').fill('/etc');
  await analyst.getByRole('button', { name: 'Test', exact: true }).click();
  await expect(analyst.getByRole('alert')).toContainText('none of the folders that may be read');
  await analyst.getByLabel('Folder').fill(folder);
  await analyst.getByRole('button', { name: 'Test', exact: true }).click();
  await expect(analyst.getByRole('region', { name: 'Sample lines' })).toContainText('the tide is in');
  await analyst.getByRole('button', { name: 'Test and add' }).click();
  await startDataSet(analyst);
  await choose(analyst.getByLabel('A line is'), 'a pattern of your own');
  await analyst
    .getByLabel('Pattern')
    .fill('^(?<clock>\\d\\d:\\d\\d) (?<what>opened|closed) (?<vessel>\\S+) (?<minutes>\\d+');
  await analyst.getByRole('button', { name: 'Try it' }).click();
  await expect(analyst.getByRole('alert')).toContainText('missing )');
  await analyst
    .getByLabel('Pattern')
    .fill('^(?<clock>\\d\\d:\\d\\d) (?<what>opened|closed) (?<vessel>\\S+) (?<minutes>\\d+)$');
  await analyst.getByRole('button', { name: 'Try it' }).click();
  await expect(analyst.getByText('2 lines fit · 1 does not')).toBeVisible();
  await expect(analyst.locator('mark[title=vessel]').first()).toHaveText('Kittiwake');
  await save(analyst, 'Bridge log', 'movements');
  await analyst.getByRole('link', { name: 'Kept records' }).click();
  const refreshes = analyst.getByRole('region', { name: 'Refreshes' });
  await expect(refreshes.getByRole('row').nth(1)).toContainText('Done');
  await expect(analyst.getByRole('region', { name: 'Lines that could not be read' })).toContainText(
    'the tide is in',
  );
  await count(analyst, 'Bridge log', '2');
  // What is written later arrives on the page by itself.
  write('06:55 opened Turnstone 3\n');
  await analyst.goto('/workroom');
  await analyst.getByRole('link', { name: 'Bridge log', exact: true }).click();
  await analyst.getByRole('link', { name: 'Kept records' }).click();
  await analyst.getByRole('button', { name: 'Refresh now' }).click();
  await expect(refreshes.getByRole('row').nth(1)).toContainText('3');
});

test('an analyst adds a place to send to, has events sent, and sees them', async ({ analyst }) => {
  await startAdding(analyst, 'Sent to us', 'Kiosk events');
  await analyst.getByRole('button', { name: 'Add it' }).click();
  const key = await analyst.getByTestId('intake-key').textContent();
  const origin = installation().url;
  const send = (at: string, body: unknown, type: string): Promise<Response> =>
    fetch(`${origin}${at}`, {
      method: 'POST',
      headers: { authorization: `Bearer ${key}`, 'content-type': type },
      body: typeof body === 'string' ? body : JSON.stringify(body),
    });
  expect(
    (
      await send(
        '/v1/logs',
        {
          resourceLogs: [
            {
              scopeLogs: [
                {
                  logRecords: [
                    { timeUnixNano: '1795416000000000000', body: { stringValue: 'kiosk opened' } },
                  ],
                },
              ],
            },
          ],
        },
        'application/json',
      )
    ).status,
  ).toBe(200);
  await analyst.getByRole('link', { name: 'Go on' }).click();
  await expect(analyst.getByRole('region', { name: 'What was received' })).toContainText(
    '1 record, the latest at',
  );
  await expect(analyst.locator('body')).not.toContainText(key ?? '?');
  await startDataSet(analyst);
  await expect(analyst.getByRole('region', { name: 'Its records' })).toContainText('kiosk opened');
  await save(analyst, 'Kiosk events taken', 'events');
  await count(analyst, 'Kiosk events taken', '1');
  const pane = paneOf(analyst, 'All of them');
  expect((await send('/intake/lines', '{"body":"kiosk closed"}\n', 'application/x-ndjson')).status).toBe(200);
  // The page brings itself up to date.
  await expect(pane).toContainText('2');
});

test('a reader sees gate traffic and follows one passage through three systems', async ({ browser }) => {
  const reader = await pageOf(browser, 'reader');
  await reader.goto('/desk/skerry-sound/gate-traffic');
  await expect(paneOf(reader, 'Scans')).toContainText(/[1-9],\d{3}/);
  await reader.goto('/desk/skerry-sound/passage-trace');
  const passages = paneOf(reader, 'Passages, latest first');
  await reader.getByRole('button', { name: 'Next page' }).first().waitFor();
  const next = passages.getByRole('button', { name: 'Next page' });
  const stands = (await next.boundingBox())?.x;
  for (const shown of ['13 – 24', '25 – 36', '37 – 48', '49 – 60', '61 – 72', '73 – 84']) {
    await next.click();
    await expect(passages).toContainText(shown);
    // Whatever the words beside it say, it is under the hand that pressed it.
    expect((await next.boundingBox())?.x).toBe(stands);
    await expect(passages.getByRole('row')).toHaveCount(13);
  }
  const row = passages.getByRole('row').nth(3);
  const reference = (await row.getByRole('cell').first().textContent()) ?? '';
  await row.click();
  // The table that a passage is picked in stays on its page, with the passage marked.
  await expect(passages).toContainText('73 – 84');
  await expect(paneOf(reader, 'The passage')).toContainText(reference.trim());
  await expect(paneOf(reader, 'Scans at the gates').getByRole('row').nth(1)).toContainText(reference.trim());
  // Its events of the three stand in one order, with the time between where that is long.
  const trace = paneOf(reader, 'What happened to it');
  await expect(trace.getByRole('status')).toContainText(`${reference.trim()}, 3 events`);
  await expect(trace.getByRole('table')).toContainText(/POST.*passage.*min later.*-\d/s);
  await trace.getByRole('button', { name: /POST/ }).click();
  await expect(trace).toContainText('SkerryApp');
  // The passage as it is opened tells it as well, of that one alone.
  await passages.getByRole('row').nth(2).press('Enter');
  const opened = reader.getByRole('dialog');
  const name =
    (await opened.getByRole('heading', { level: 2 }).last().textContent())?.split(' ').at(-1) ?? '';
  expect(name).not.toBe(reference.trim());
  const within = opened.getByRole('region', { name: 'What happened to it' });
  await expect(within.getByRole('status')).toContainText(name);
  await expect(within.getByRole('searchbox')).toHaveCount(0);
  await reader.keyboard.press('Escape');
  await expect(opened).toBeHidden();
  // Another is found by typing it, whatever is picked.
  await trace.getByRole('searchbox').fill('PSG-NOBODY');
  await expect(trace).toContainText('Nothing is known of passage PSG-NOBODY.');
  await expect(reader).toHaveURL(/trace\.case=PSG-NOBODY/);
  // Whoever knows only a part of it is told which they may have meant.
  await trace.getByRole('searchbox').fill(reference.trim().slice(0, -1).toLowerCase());
  await trace.getByRole('button', { name: reference.trim() }).click();
  await expect(trace.getByRole('status')).toContainText(`${reference.trim()}, 3 events`);
  await reader.context().close();
});
