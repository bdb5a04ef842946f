import type { Page } from '@playwright/test';
import {
  type Berths,
  berthNames,
  berthsInMaria,
  berthsInPostgres,
  berthsInStores,
  berthsOverHttp,
  publishBerths,
} from './support/berths.ts';
import { expect, pageOf, paneOf, test } from './support/people.ts';

/* What people do to records, by mouse and by keyboard alone, is the same wherever the records are. */

const kinds: readonly [string, () => Promise<Berths>][] = [
  ['PostgreSQL', berthsInPostgres],
  ['MariaDB', berthsInMaria],
  ['an OData service', berthsInStores],
  ['an HTTP API', berthsOverHttp],
];

const [first = '', second = '', third = '', fourth = ''] = berthNames;
const list = (page: Page) => paneOf(page, 'All berths');
const row = (page: Page, name: string) => list(page).locator('tbody tr').filter({ hasText: name });
const bar = (page: Page) => list(page).getByRole('toolbar', { name: 'What can be done to berths' });
const asks = (page: Page, action: string) => page.getByRole('dialog', { name: action });
const notice = (page: Page) => page.getByRole('status', { name: 'What was done' });

for (const [kind, make] of kinds)
  test(`records of ${kind} are acted on, and every page tells the truth of them`, async ({
    browser,
    analyst,
  }) => {
    const berths = await make();
    const { texts } = berths;
    const address = await publishBerths(analyst, berths);
    const [page, other] = [await pageOf(browser, 'supervisor'), await pageOf(browser, 'reader')];
    for (const each of [page, other]) await each.goto(address);
    const everywhere = async (open: number, all: number): Promise<void> => {
      for (const each of [page, other]) {
        await expect(paneOf(each, 'Open')).toContainText(String(open));
        await expect(list(each).locator('tbody tr')).toHaveCount(all);
      }
    };
    await everywhere(6, 6);
    await expect(list(other).getByRole('checkbox')).toHaveCount(0);

    await test.step('by mouse', async () => {
      // One value onto several records.
      for (const name of [first, second]) await row(page, name).getByRole('checkbox').click();
      await bar(page).getByRole('button', { name: 'Shut' }).click();
      await asks(page, 'Shut').getByRole('button', { name: 'Shut' }).click();
      await expect(notice(page)).toContainText('Shut: 2 berths.');
      await everywhere(4, 6);
      await notice(page).getByRole('button', { name: 'Undo' }).click();
      await everywhere(6, 6);

      // A value that cannot be, and one that can.
      await row(page, third).getByRole('checkbox').click();
      await bar(page).getByRole('button', { name: 'Say more' }).click();
      const more = asks(page, 'Say more');
      await more.getByLabel('Asked').fill(texts.wrong);
      await more.getByRole('button', { name: 'Say more' }).click();
      await expect(more).toContainText(texts.why);
      await more.getByLabel('Asked').fill(texts.right);
      // Somebody else was quicker: both are seen, and nothing is done before one is chosen.
      await berths.changeOutside(third);
      await more.getByRole('button', { name: 'Say more' }).click();
      await expect(more).toContainText('Somebody changed one of them meanwhile. Nothing was done.');
      await more.getByRole('button', { name: 'Say more all the same' }).click();
      await expect(notice(page)).toContainText('Say more: 1 berth.');
      for (const each of [page, other]) await expect(row(each, third)).toContainText(texts.right);

      await bar(page).getByRole('button', { name: 'Add a berth' }).click();
      const add = asks(page, 'Add a berth');
      await add.getByLabel('Asked').fill(texts.right);
      await add.getByRole('button', { name: 'Add a berth' }).click();
      await expect(add).toContainText('It is needed.');
      await add.getByLabel('Name').fill('Fish quay');
      await add.getByRole('button', { name: 'Add a berth' }).click();
      await everywhere(7, 7);

      await row(page, 'Fish quay').hover();
      await row(page, 'Fish quay')
        .getByRole('button', { name: /^Change name of / })
        .click();
      const place = page.getByRole('dialog', { name: /^Name of / });
      await place.getByLabel('Name').fill('Herring quay');
      await place.getByRole('button', { name: 'Change it' }).click();
      for (const each of [page, other]) await expect(row(each, 'Herring quay')).toBeVisible();

      await row(page, 'Herring quay').getByRole('checkbox').click();
      await bar(page).getByRole('button', { name: 'Remove' }).click();
      await asks(page, 'Remove').getByRole('button', { name: 'Remove' }).click();
      await everywhere(6, 6);
    });

    await test.step('by keyboard alone', async () => {
      const press = async (...keys: string[]): Promise<void> => {
        for (const key of keys) await page.keyboard.press(key);
      };
      const reach = (name: string) => bar(page).getByRole('button', { name }).press('Enter');
      await row(page, fourth).focus();
      await press('Space', 'a');
      await reach('Shut');
      await asks(page, 'Shut').getByRole('button', { name: 'Shut' }).press('Enter');
      await everywhere(5, 6);

      await row(page, fourth).focus();
      await press('F2', 'Enter');
      const place = page.getByRole('dialog', { name: /^Name of / });
      await place.getByLabel('Name').fill('Inner harbour wall');
      await press('Enter');
      for (const each of [page, other]) await expect(row(each, 'Inner harbour wall')).toBeVisible();

      await row(page, first).focus();
      await press('Enter');
      const opened = page.getByRole('dialog', { name: first });
      const followUp = opened.getByRole('region', { name: 'Follow-up' });
      await followUp.getByLabel('What was learnt, or is to be done').fill('Rung the harbour office.');
      await followUp.getByRole('button', { name: 'Note it' }).press('Enter');
      await expect(followUp.getByRole('list', { name: 'What was said' })).toContainText(
        'Rung the harbour office.',
      );
      // The history of what was done to it, and of what was taken back.
      const history = opened.getByRole('region', { name: 'What was done to it' });
      await expect(history).toContainText('Undo of “Shut”');
      await press('Escape');

      await reach('Add a berth');
      const add = asks(page, 'Add a berth');
      await add.getByLabel('Name').fill('Fish quay');
      await add.getByLabel('Asked').fill(texts.right);
      await press('Enter');
      await everywhere(6, 7);
      await row(page, 'Fish quay').focus();
      await press('Space', 'a');
      await reach('Remove');
      await asks(page, 'Remove').getByRole('button', { name: 'Remove' }).press('Enter');
      await everywhere(5, 6);
    });
    for (const each of [page, other]) await each.context().close();
    await berths.end();
  });
