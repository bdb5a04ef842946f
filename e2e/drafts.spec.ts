import type { Browser, Locator, Page } from '@playwright/test';
import { publishDraft } from './support/build.ts';
import { copyOfDashboard, unique } from './support/make.ts';
import { expect, holdBack, pageOf, paneOf, test } from './support/people.ts';

test('the draft goes on while readers keep what was published, and an earlier version can come back', async ({
  analyst,
  browser,
}) => {
  const title = unique('Harbour board');
  const { slug, address } = await copyOfDashboard('morning-brief', title);
  await analyst.goto(address);
  await publishDraft(analyst);
  await expect(analyst.getByText('Published: version 1')).toBeVisible();
  await analyst.getByLabel('Title of the dashboard').fill(`${title}, evening`);
  // While it is being typed it is not what is stored.
  await expect(analyst.getByText('Saved', { exact: true })).toBeHidden();
  await analyst.keyboard.press('Enter');
  await expect(analyst.getByText('Saved', { exact: true })).toBeVisible();
  await expect(analyst.getByText('Changed since version 1, which readers have')).toBeVisible();
  const reader = await pageOf(browser, 'reader');
  await reader.goto(`/desk/skerry-sound/${slug}`);
  await expect(reader.getByRole('link', { name: title, exact: true })).toBeVisible();
  await publishDraft(analyst);
  await expect(analyst.getByText('Published: version 2')).toBeVisible();
  await reader.reload();
  await expect(reader.getByRole('link', { name: `${title}, evening` })).toBeVisible();
  await analyst.getByRole('button', { name: 'Versions' }).click();
  await analyst.getByRole('button', { name: 'Give readers this' }).click();
  await expect(analyst.getByText('Changed since version 1, which readers have')).toBeVisible();
  await reader.reload();
  await expect(reader.getByRole('link', { name: title, exact: true })).toBeVisible();
  await reader.context().close();
});

test('an earlier version is looked at with the records of now, in the same scope as what readers have', async ({
  analyst,
}) => {
  const title = unique('Harbour board');
  const { address } = await copyOfDashboard('morning-brief', title);
  await analyst.goto(address);
  await publishDraft(analyst);
  await expect(analyst.getByText('Published: version 1')).toBeVisible();
  await analyst.getByLabel('Title of the dashboard').fill(`${title}, evening`);
  await analyst.keyboard.press('Enter');
  await expect(analyst.getByText('Changed since version 1, which readers have')).toBeVisible();
  await publishDraft(analyst);
  await expect(analyst.getByText('Published: version 2')).toBeVisible();
  await analyst.goto(`${address}/versions`);
  await analyst.getByRole('link', { name: 'Version 1', exact: true }).click();
  const version = analyst.getByRole('region', { name: 'Version', exact: true });
  await expect(version.getByText(`${title}, version 1`)).toBeVisible();
  await expect(paneOf(analyst, 'Late sailings, latest first').getByRole('row').nth(1)).toBeVisible();
  await version.getByText('What version 2, which readers have, does otherwise').click();
  await expect(version.getByText(`The dashboard is called “${title}, evening” now.`)).toBeVisible();
  const why = paneOf(analyst, 'Why they were late');
  await why.hover();
  await why.getByRole('button', { name: 'Show as a table' }).click();
  await why.getByRole('row').filter({ hasText: 'tide' }).getByRole('button', { name: 'tide' }).click();
  await expect(analyst.getByRole('region', { name: 'What this page shows' })).toContainText(
    'looking at cause tide',
  );
  const { search } = new URL(analyst.url());
  expect(search).not.toBe('');
  await version.getByRole('link', { name: 'The same in version 2' }).click();
  await expect(version.getByText(`${title}, evening, version 2`)).toBeVisible();
  await expect(version.getByText('Readers have this version.')).toBeVisible();
  expect(new URL(analyst.url()).search).toBe(search);
  await analyst.goBack();
  // Both beside each other, of what is not alike: the title alone is no pane.
  await version.getByRole('link', { name: 'Beside version 2' }).click();
  await expect(analyst.getByText('Every pane shows the same in both.')).toBeVisible();
  await analyst.goBack();
  await version.getByRole('button', { name: 'Give readers this' }).click();
  await expect(version.getByText('Readers have this version.')).toBeVisible();
});

test('what the draft has otherwise stands beside what readers have, with the records of now', async ({
  analyst,
}) => {
  const { address } = await copyOfDashboard('morning-brief', unique('Harbour board'));
  await analyst.goto(address);
  await publishDraft(analyst);
  await expect(analyst.getByText('Published: version 1')).toBeVisible();
  const pane = paneOf(analyst, 'On time');
  await pane.hover();
  await pane.getByRole('link', { name: 'Edit the brief of On time' }).click();
  await analyst.getByLabel('Title', { exact: true }).fill('Punctual');
  await analyst.getByRole('button', { name: 'Save the brief' }).click();
  await expect(analyst.getByText('Changed since version 1, which readers have')).toBeVisible();
  await analyst.getByRole('button', { name: 'Publish', exact: true }).click();
  await analyst.getByRole('link', { name: 'See both beside each other' }).click();
  const was = analyst.getByRole('region', { name: 'On time, What readers have' });
  const is = analyst.getByRole('region', { name: 'Punctual, The draft' });
  await expect(was).toContainText(/\d+(\.\d+)?\s*%/);
  const told = async (side: Locator): Promise<string | undefined> =>
    /\d.*/.exec((await side.textContent()) ?? '')?.[0];
  expect(await told(is)).toBe(await told(was));
  await expect(analyst.getByRole('region', { name: /The draft$/ })).toHaveCount(1);
});

/** Opens a draft that a colleague gives another title while it is on the page. Gives the colleague's page. */
async function retitledByColleague(analyst: Page, browser: Browser, title: string): Promise<Page> {
  const { address } = await copyOfDashboard('morning-brief', unique('Harbour board'));
  const admin = await pageOf(browser, 'admin');
  await analyst.goto(address);
  await admin.goto(address);
  await expect(admin.getByText('Magnus Drever is here too')).toBeVisible();
  await admin.getByLabel('Title of the dashboard').fill(title);
  await admin.keyboard.press('Enter');
  await expect(admin.getByText('Saved', { exact: true })).toBeVisible();
  return admin;
}

test('what two people do to different parts of a draft is both kept, and told', async ({
  analyst,
  browser,
}) => {
  const title = unique('Board of the morning');
  const admin = await retitledByColleague(analyst, browser, title);
  await analyst.getByRole('button', { name: 'Arrange' }).click();
  const movable = analyst.getByRole('region', { name: /^Sailings today: / });
  const before = (await movable.getAttribute('aria-label')) ?? '';
  await movable.focus();
  // Both are saved over what the other did, the second before the page has heard of that.
  await analyst.keyboard.press('Shift+ArrowDown');
  await analyst.keyboard.press('Shift+ArrowDown');
  await expect(analyst.getByText('Other parts of it were changed meanwhile. Both are kept.')).toBeVisible();
  await expect(analyst.getByText(`The title is now “${title}”.`)).toBeVisible();
  await expect(analyst.getByText('Saved', { exact: true })).toBeVisible();
  await admin.reload();
  await expect(admin.getByLabel('Title of the dashboard')).toHaveValue(title);
  await admin.getByRole('button', { name: 'Arrange' }).click();
  await expect(admin.getByRole('region', { name: /^Sailings today: / })).not.toHaveAccessibleName(before);
  await expect(analyst.getByLabel('Title of the dashboard')).toHaveValue(title);
  await admin.context().close();
});

test('two people editing: the later save is told what changed, and loses nothing', async ({
  analyst,
  browser,
}) => {
  const admin = await retitledByColleague(analyst, browser, 'Harbour board, by Astrid');
  await analyst.getByLabel('Title of the dashboard').fill('Harbour board, by Magnus');
  await analyst.keyboard.press('Enter');
  const told = analyst.getByRole('alert');
  await expect(told).toContainText('Astrid Heddle saved this');
  await expect(told).toContainText('The title is now “Harbour board, by Astrid”.');
  await told.getByRole('button', { name: 'Save mine over it' }).click();
  await expect(analyst.getByText('Saved', { exact: true })).toBeVisible();
  await admin.reload();
  await expect(admin.getByLabel('Title of the dashboard')).toHaveValue('Harbour board, by Magnus');
  await admin.context().close();
});

test('what a colleague saved a second ago is not published unseen', async ({ analyst, browser }) => {
  const admin = await retitledByColleague(analyst, browser, 'Half a thought');
  await publishDraft(analyst);
  await expect(analyst.getByRole('alert')).toContainText('Astrid Heddle has changed this draft');
  await expect(analyst.getByText('Not published yet')).toBeVisible();
  await admin.context().close();
});

test('a person who is quick with the arrow keys never crosses their own saves, and undoes them on another page', async ({
  analyst,
}) => {
  const { address } = await copyOfDashboard('morning-brief', unique('Harbour board'));
  await analyst.goto(address);
  await analyst.getByRole('button', { name: 'Arrange' }).click();
  const movable = analyst.getByRole('region', { name: /^Sailings today: / });
  await movable.focus();
  for (let times = 0; times < 6; times += 1) await analyst.keyboard.press('Shift+ArrowDown');
  await expect(analyst.getByText('Saved', { exact: true })).toBeVisible();
  await expect(analyst.getByRole('alert')).toHaveCount(0);
  const name = await movable.getAttribute('aria-label');
  await analyst.reload();
  await analyst.getByRole('button', { name: 'Arrange' }).click();
  await expect(movable).toHaveAccessibleName(name ?? '');
  await analyst.getByRole('button', { name: 'Done arranging' }).click();
  await analyst.getByRole('button', { name: 'Undo' }).click();
  await expect(analyst.getByText('Saved', { exact: true })).toBeVisible();
  await analyst.getByRole('button', { name: 'Arrange' }).click();
  await expect(movable).not.toHaveAccessibleName(name ?? '');
});

test('what is chosen while a change is being saved takes nothing from the page: it can be published', async ({
  analyst,
}) => {
  const title = unique('Harbour board');
  const { address } = await copyOfDashboard('morning-brief', title);
  await analyst.goto(address);
  const askedAgain = analyst.waitForRequest('**/workroom/dashboards/*.data*');
  const letCome = await holdBack(analyst, '**/workroom/dashboards/*.data*');
  await analyst.getByLabel('Title of the dashboard').fill(`${title}, evening`);
  await analyst.keyboard.press('Enter');
  await askedAgain;
  await analyst.getByRole('button', { name: 'All routes' }).click();
  await analyst.getByRole('dialog').getByRole('checkbox').first().click();
  letCome();
  await expect(analyst).toHaveURL(/route=/);
  await analyst.keyboard.press('Escape');
  await expect(analyst.getByText('Saved', { exact: true })).toBeVisible();
  await publishDraft(analyst);
  await expect(analyst.getByText('Published: version 1')).toBeVisible();
});

/** A page as the server has drawn it; its scripts come when they are let. */
async function beforeScripts(of: Page, address: string): Promise<{ page: Page; letCome: () => void }> {
  const page = await of.context().newPage();
  const letCome = await holdBack(page, '**/assets/*.js');
  await page.goto(address, { waitUntil: 'commit' });
  return { page, letCome };
}

test('a click that falls before the scripts of a page have come is not lost', async ({ analyst }) => {
  const { address } = await copyOfDashboard('morning-brief', unique('Harbour board'));
  const { page, letCome } = await beforeScripts(analyst, address);
  await page.getByRole('button', { name: 'Arrange' }).click();
  await expect(page.locator('html[data-live]')).toHaveCount(0);
  await expect(page.getByRole('button', { name: 'Done arranging' })).toHaveCount(0);
  letCome();
  await expect(page.getByRole('button', { name: 'Done arranging' })).toBeVisible();
  // It is made once.
  await page.getByRole('button', { name: 'Done arranging' }).click();
  await expect(page.getByRole('button', { name: 'Arrange', exact: true })).toBeVisible();
});

test('a click into a pane before the scripts of a page have come, and a key at the moment that they have, are not lost', async ({
  analyst,
}) => {
  const { page, letCome } = await beforeScripts(analyst, '/desk/skerry-sound/morning-brief');
  const late = paneOf(page, 'Late sailings, latest first');
  await late.getByRole('columnheader', { name: 'Vessel' }).getByRole('button').click();
  await expect(page.locator('html[data-live]')).toHaveCount(0);
  letCome();
  await expect(late.getByRole('columnheader', { name: 'Vessel' })).toHaveAttribute('aria-sort', 'ascending');
  await page.addInitScript(() => {
    const openFirst = (): void => {
      const row = document.querySelector('[data-kind="table"] tbody tr');
      row?.dispatchEvent(new KeyboardEvent('keydown', { key: 'Enter', bubbles: true }));
    };
    addEventListener('slate:live', () => setTimeout(openFirst));
  });
  await page.goto('/desk/skerry-sound/morning-brief');
  await expect(page.getByRole('dialog')).toBeVisible();
});

test('what is pressed is done though the page moves under the mouse; what the mouse is moved away from is not', async ({
  analyst,
}) => {
  await analyst.goto('/desk/skerry-sound/morning-brief');
  const link = paneOf(analyst, 'Sailings today').getByRole('link', { name: /open the records/ });
  const pressed = async (): Promise<{ x: number; y: number }> => {
    const { x = 0, y = 0, width = 0, height = 0 } = (await link.boundingBox()) ?? {};
    await analyst.mouse.move(x + width / 2, y + height / 2);
    await analyst.mouse.down();
    return { x: x + width / 2, y: y + height / 2 };
  };
  const { x, y } = await pressed();
  await analyst.mouse.move(x, y + 200);
  await analyst.mouse.up();
  await pressed();
  await analyst.evaluate(() => {
    const line = document.createElement('hr');
    line.style.height = '120px';
    document.querySelector('#panes')?.before(line);
  });
  await expect(analyst.getByRole('dialog')).toHaveCount(0);
  await analyst.mouse.up();
  await expect(analyst.getByRole('dialog')).toBeVisible();
  // It is done once.
  await analyst.keyboard.press('Escape');
  await expect(analyst.getByRole('dialog')).toHaveCount(0);
});

test('what the server has drawn of a pane stays when the scripts of the page come, and who is in it stays there', async ({
  analyst,
}) => {
  const { page, letCome } = await beforeScripts(analyst, '/desk/skerry-sound/morning-brief');
  const link = paneOf(page, 'Sailings today').getByRole('link', { name: /open the records/ });
  await link.focus();
  const bodies = page.locator('[data-pane] [aria-busy]');
  await expect(bodies).toHaveCount(await page.locator('[data-pane]').count());
  await bodies.evaluateAll((all) => {
    for (const each of all) each.classList.add('was-drawn');
  });
  await expect(page.locator('html[data-live]')).toHaveCount(0);
  letCome();
  await expect(paneOf(page, 'Why they were late').locator('svg.apexcharts-svg')).toBeVisible();
  await expect(link).toBeFocused();
  expect(await bodies.count()).toBe(await page.locator('.was-drawn').count());
});

test('a session that ends in the middle of an edit asks for the password in place, and the edit is saved', async ({
  analyst,
}) => {
  const { address } = await copyOfDashboard('morning-brief', unique('Harbour board'));
  await analyst.goto(address);
  await expect(
    paneOf(analyst, 'Sailings today').getByRole('link', { name: /open the records/ }),
  ).toBeVisible();
  await analyst.context().clearCookies({ name: 'slate_session' });
  await analyst.getByLabel('Title of the dashboard').fill('Harbour board, kept');
  await analyst.keyboard.press('Enter');
  const again = analyst.getByRole('dialog', { name: 'You have been signed out' });
  await again.getByLabel('E-mail address').fill('analyst@skerry.example');
  await again.getByLabel('Password').fill('low-water-0640');
  await again.getByRole('button', { name: 'Sign in' }).click();
  await expect(analyst.getByText('Saved', { exact: true })).toBeVisible();
  await analyst.reload();
  await expect(analyst.getByLabel('Title of the dashboard')).toHaveValue('Harbour board, kept');
});
