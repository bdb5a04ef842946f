import type { Locator, Page } from '@playwright/test';
import {
  choose,
  databaseServer,
  digits,
  expect,
  holdBack,
  onlyWith,
  pageOf,
  paneOf,
  test,
  withDatabase,
} from './support/people.ts';

const brief = '/desk/skerry-sound/morning-brief';

test('signed out leads to sign-in and back to where one was going', async ({ browser }) => {
  const page = await pageOf(browser, null);
  await page.goto(`${brief}?delay=~atleast.20`);
  await expect(page).toHaveURL(/sign-in/);
  await page.getByLabel('E-mail address').fill('reader@skerry.example');
  await page.getByLabel('Password').fill('wrong');
  await page.getByRole('button', { name: 'Sign in' }).click();
  await expect(page.getByRole('alert')).toHaveText('The e-mail address and password do not match.');
  await page.getByLabel('Password').fill('low-water-0640');
  await page.getByRole('button', { name: 'Sign in' }).click();
  await expect.poll(() => decodeURIComponent(page.url())).toContain('/morning-brief?delay=~atleast.20');
  // The page is another one altogether: the keyboard begins at its top.
  await expect(sentence(page)).toBeVisible();
  await page.keyboard.press('Tab');
  await expect(page.getByRole('link', { name: 'Skip to the content' })).toBeFocused();
  await page.context().close();
});

const sentence = (page: Page): Locator => page.getByRole('region', { name: 'What this page shows' });

test('a reader narrows by values and by number, and is told what is no number', async ({ browser }) => {
  const page = await pageOf(browser, 'reader');
  await page.goto(brief);
  const scope = sentence(page);
  await expect(scope).toContainText(/of [\d,]+ sailings/);
  await scope.getByRole('button', { name: 'All routes' }).click();
  const chooser = page.getByRole('dialog', { name: 'Choose routes' });
  const offered = await chooser
    .getByRole('listitem')
    .filter({ hasText: 'Norrick – Holm Pier' })
    .textContent();
  await chooser.getByText('Norrick – Holm Pier').click();
  await page.keyboard.press('Escape');
  await expect(scope).toContainText(`— ${digits(offered).toLocaleString('en-GB')} of`);
  await expect(page).toHaveURL(/route=Norrick/);

  await scope.getByRole('button', { name: 'any delay' }).click();
  await page.getByLabel(/At least/).fill('soon');
  await page.getByRole('button', { name: 'Apply' }).click();
  await expect(page.getByRole('alert')).toContainText('“soon” is not a whole number');
  await page.getByLabel(/At least/).fill('15');
  await page.getByRole('button', { name: 'Apply' }).click();
  await expect(scope).toContainText('with at least 15');
  await page.goBack();
  await expect(scope).toContainText('with any delay');
  await expect(scope).toContainText('Norrick – Holm Pier');
  await page.context().close();
});

test('a reader narrows by date; the address is the same to whoever is sent it, and Back leads back', async ({
  browser,
}) => {
  const page = await pageOf(browser, 'reader');
  await page.goto(`${brief}?delay=~atleast.15`);
  const scope = sentence(page);
  await scope.getByRole('button', { name: /the last 28 days/ }).click();
  await page.getByRole('button', { name: /^the last 12 months/ }).click();
  await expect(scope).toContainText('the last 12 months (');
  const other = await pageOf(browser, 'supervisor');
  await other.goto(page.url());
  await expect(sentence(other)).toContainText('with at least 15');
  const kept = async (of: Page): Promise<number> =>
    digits((await sentence(of).textContent())?.split('—')[1]?.split('of')[0] ?? '');
  await expect
    .poll(async () => (await kept(other)) > 0 && (await kept(other)) === (await kept(page)))
    .toBe(true);
  await other.context().close();
  await page.goBack();
  await expect(scope).toContainText('the last 28 days');
  await page.context().close();
});

test('an address edited by hand says what it left out, and shows the rest', async ({ browser }) => {
  const page = await pageOf(browser, 'reader');
  await page.goto(
    `${brief}?harbour=x&delay=soon&route=Norrick+%E2%80%93+Holm+Pier&at=nowhere.id:1&and=%7C%7C`,
  );
  const problems = page.getByRole('region', { name: 'What this page shows' }).getByRole('alert');
  await expect(problems).toHaveCount(4);
  await expect(problems.first()).toContainText('“harbour” in the address means nothing');
  await expect(page.getByRole('region', { name: 'What this page shows' })).toContainText(
    'Norrick – Holm Pier',
  );
  await expect(paneOf(page, 'Sailings today').getByRole('link', { name: /open the records/ })).toBeVisible();
  const many = Array.from({ length: 1001 }, (_, index) => `route=${index}`).join('&');
  await page.goto(`${brief}?${many}`);
  await expect(problems).toContainText('1001 values are too many');
  await page.context().close();
});

test('a record is found by typing a part of its name, and so are dashboards and what can be done', async ({
  browser,
}) => {
  const page = await pageOf(browser, 'reader');
  await page.goto(brief);
  const first = paneOf(page, 'Late sailings, latest first').getByRole('row').nth(1);
  const reference = ((await first.getByRole('cell').first().textContent()) ?? '').trim();
  await expect(async () => {
    await page.keyboard.press('Control+k');
    await expect(page.getByRole('dialog', { name: 'Find or do' })).toBeVisible({ timeout: 500 });
  }).toPass();
  const find = page.getByRole('dialog', { name: 'Find or do' });
  await expect(find.getByRole('combobox')).toBeFocused();
  // Whoever types slowly sees others first, which give way to the one that is meant.
  await page.keyboard.type(reference.slice(0, 5).toLowerCase());
  await expect(find.getByRole('option', { name: /^SK-/ }).nth(3)).toBeVisible();
  await page.keyboard.type(reference.slice(5).toLowerCase());
  await expect(find.getByRole('option', { name: /^SK-/ })).toHaveCount(1);
  await page.keyboard.press('Enter');
  await expect(page.getByRole('dialog')).toContainText(`Sailing ${reference}`);
  await page.keyboard.press('Escape');
  await page.getByRole('button', { name: 'Find or do (Ctrl K)' }).click();
  await expect(find.getByRole('combobox')).toBeFocused();
  await page.keyboard.type('punctual');
  await expect(find.getByRole('option', { name: 'Route punctuality' })).toBeVisible();
  await page.keyboard.press('Enter');
  await expect(page).toHaveURL(/route-punctuality/);
  await page.context().close();
});

test('a pane that is gone to by its name has the keyboard, and whoever only looks goes on where they were', async ({
  browser,
}) => {
  const page = await pageOf(browser, 'reader');
  await page.goto('/desk/skerry-sound/route-punctuality');
  const find = page.getByRole('dialog', { name: 'Find or do' });
  await page.getByRole('button', { name: 'Find or do (Ctrl K)' }).click();
  await expect(find.getByRole('combobox')).toBeFocused();
  await page.keyboard.type('vessel and month');
  await expect(find.getByRole('option')).toHaveCount(1);
  await page.keyboard.press('Enter');
  const pane = paneOf(page, 'On-time rate by route, vessel and month');
  await expect(pane).toBeFocused();
  await page.keyboard.press('Control+k');
  await page.keyboard.press('Escape');
  await expect(find).toHaveCount(0);
  await expect(pane).toBeFocused();
  await page.context().close();
});

test('a scope that nothing matches says which clause to loosen, and loosens it', async ({ browser }) => {
  const page = await pageOf(browser, 'reader');
  await page.goto(`${brief}?delay=~atleast.100000`);
  const table = paneOf(page, 'Late sailings, latest first');
  await expect(table).toContainText('No sailings match.');
  await table.getByRole('button', { name: /Remove “with at least 100,000”/ }).click();
  await expect(table.getByRole('row').nth(1)).toBeVisible();
  await page.context().close();
});

test('a reader adds a condition of their own, with an or, and nests another in it', async ({ browser }) => {
  const page = await pageOf(browser, 'reader');
  await page.goto(brief);
  await page.getByRole('button', { name: '… and where' }).click();
  await choose(page.getByLabel('Where', { exact: true }), 'sailing: cause');
  // The values that there are, with how many records have each; or one that is typed.
  await page
    .getByRole('dialog')
    .getByRole('checkbox', { name: /^tide\s*\d+$/ })
    .check();
  await page.getByRole('button', { name: 'Or …' }).click();
  await page.getByLabel('Find or type a value').fill('crew');
  await page.getByRole('button', { name: 'Apply', exact: true }).click();
  await expect(page.getByRole('region', { name: 'What this page shows' })).toContainText(
    'and where cause is tide or cause is crew',
  );
  await expect(page).toHaveURL(/and=/);
  const late = paneOf(page, 'Late sailings, latest first');
  const lessLate = late.getByRole('row').filter({ hasText: /\D1?\dcrew$/ });
  await expect(lessLate.first()).toBeVisible();
  // It is changed where it stands: “tide or (crew and at least 20 minutes)”.
  await page.getByRole('button', { name: 'cause is tide or cause is crew', exact: true }).click();
  await expect(page.getByRole('radio', { name: 'and', exact: true })).toBeChecked();
  await choose(page.getByLabel('Where', { exact: true }), 'sailing: delay');
  await page.getByLabel('Value').fill('20');
  await page.keyboard.press('Enter');
  const sentence = 'cause is tide, or cause is crew and delay is at least 20';
  await expect(page.getByRole('region', { name: 'What this page shows' })).toContainText(sentence);
  await expect(late.getByRole('row').nth(1)).toContainText(/tide|crew/);
  await expect(lessLate).toHaveCount(0);
  await page.reload();
  await page.getByRole('button', { name: sentence, exact: true }).click();
  await page.getByRole('button', { name: 'Remove “cause is tide”' }).click();
  await page.getByRole('button', { name: 'Apply without this one' }).click();
  await expect(
    page.getByRole('button', { name: 'cause is crew and delay is at least 20', exact: true }),
  ).toBeVisible();
  await page.getByRole('button', { name: /Remove “where/ }).click();
  await expect(page.getByRole('region', { name: 'What this page shows' })).not.toContainText(
    'and where cause',
  );
  await page.context().close();
});

test('a table is saved as a file: every record of the scope, with all digits, and JSON says what it is of', async ({
  browser,
}) => {
  const page = await pageOf(browser, 'reader');
  await page.goto(`${brief}?late.find=weather`);
  const table = paneOf(page, 'Late sailings, latest first');
  await onlyWith(table, 'weather');
  const total = Number(/of ([\d,]+) sailings/.exec((await table.textContent()) ?? '')?.[1]?.replace(',', ''));
  expect(total).toBeGreaterThan(20);
  const saved = async (format: string): Promise<string> => {
    await table.hover();
    await table.getByRole('button', { name: 'Download Late sailings, latest first' }).click();
    const download = page.waitForEvent('download');
    await page.getByRole('link', { name: format, exact: true }).click();
    const stream = await (await download).createReadStream();
    const pieces: Buffer[] = [];
    for await (const piece of stream) pieces.push(piece as Buffer);
    await page.keyboard.press('Escape');
    return Buffer.concat(pieces).toString('utf8');
  };
  const lines = (await saved('CSV')).trimEnd().split('\r\n');
  expect(lines[0]).toContain('Reference,Route,Vessel');
  expect(lines).toHaveLength(total + 1);
  expect(lines.slice(1).every((line) => line.includes('weather'))).toBe(true);
  const json = JSON.parse(await saved('JSON, with what it shows'));
  expect(json.scope).toContain('departing in the last 28 days');
  expect(json.records).toHaveLength(total);
  await page.context().close();
});

test('a source that does not answer is named, with what is old because of it, and nothing changes place', async ({
  browser,
}) => {
  const product = databaseServer().pathname.slice(1);
  const page = await pageOf(browser, 'reader');
  await page.goto(brief);
  const pane = paneOf(page, 'Late sailings, latest first');
  await expect(pane.getByRole('row').nth(1)).toBeVisible();
  const stood = await pane.boundingBox();
  await withDatabase(product, (client) =>
    client.query("INSERT INTO outages (source_id) SELECT id FROM sources WHERE name = 'Sound operations'"),
  );
  await page.keyboard.press('r');
  const said = page.getByText(
    /^Sound operations has not answered since \d\d:\d\d; the sailings.* shown are as of/,
  );
  await expect(said).toBeVisible();
  expect(await pane.boundingBox()).toEqual(stood);
  await withDatabase(product, (client) => client.query('DELETE FROM outages'));
  await page.keyboard.press('r');
  await expect(said).toBeHidden();
  await page.context().close();
});

test('how pages look is chosen once: by night, with the rows of tables close together', async ({
  browser,
}) => {
  const page = await pageOf(browser, 'reader');
  await page.goto('/desk/skerry-sound/vessel-upkeep');
  const row = paneOf(page, 'Unfinished orders, longest due first').locator('tbody tr').first();
  const [roomy, paper] = [
    (await row.boundingBox())?.height ?? 0,
    await page.evaluate(() => getComputedStyle(document.documentElement).getPropertyValue('--paper')),
  ];
  for (const choice of ['Night', 'Close together']) {
    await page.getByRole('button', { name: /^You: / }).click();
    await page.getByRole('menuitemradio', { name: choice }).click();
  }
  await expect.poll(async () => (await row.boundingBox())?.height ?? 0).toBeLessThan(roomy - 3);
  await page.reload();
  expect((await row.boundingBox())?.height ?? 0).toBeLessThan(roomy - 3);
  expect(
    await page.evaluate(() => getComputedStyle(document.documentElement).getPropertyValue('--paper')),
  ).not.toBe(paper);
  await page.getByRole('button', { name: /^You: / }).click();
  await expect(page.getByRole('menuitemradio', { name: 'Night' })).toBeChecked();
  await expect(page.getByRole('menuitemradio', { name: 'Close together' })).toBeChecked();
  await page.context().close();
});

test('how pages look is what was chosen, though one goes on before it has come', async ({ browser }) => {
  const page = await pageOf(browser, 'reader');
  await page.goto('/desk/skerry-sound/vessel-upkeep');
  const askedAgain = page.waitForRequest(/vessel-upkeep\.data/);
  const letCome = await holdBack(page, /vessel-upkeep\.data/);
  await page.getByRole('button', { name: /^You: / }).click();
  await page.getByRole('menuitemradio', { name: 'Night' }).click();
  await askedAgain;
  await page.getByRole('banner').getByRole('link', { name: 'Morning brief' }).click();
  await expect(page).toHaveURL(/morning-brief/);
  letCome();
  await expect(page.locator('html')).toHaveAttribute('data-theme', 'night');
  await page.context().close();
});
