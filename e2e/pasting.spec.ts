import type { Locator } from '@playwright/test';
import ExcelJS from 'exceljs';
import { unique } from './support/make.ts';
import { expect, pageOf, paneOf, test, withDatabase } from './support/people.ts';

/* Records are changed from rows of a spreadsheet. */

const upkeep = '/desk/skerry-sound/vessel-upkeep';

/** Pastes as a person does who has copied cells in a spreadsheet. */
const pasteInto = (target: Locator, text: string): Promise<void> =>
  target.evaluate((element, cells) => {
    const clipboardData = new DataTransfer();
    clipboardData.setData('text/plain', cells);
    element.dispatchEvent(new ClipboardEvent('paste', { clipboardData, bubbles: true, cancelable: true }));
  }, text);

/** Two work orders that are due before all others, under names that no other has. */
async function firstDue(): Promise<{ first: string; second: string; keys: string[] }> {
  const [first, second] = [unique('Anchor light'), unique('Bilge alarm')];
  const keys = await withDatabase('sound_ops', async (client) => {
    const { rows } = await client.query<{ id: string }>(
      `UPDATE work_orders AS o SET title = n.title, due_on = n.due, status = 'open', done_at = NULL, priority = 'normal'
       FROM (SELECT id, CASE at WHEN 1 THEN $1 ELSE $2 END AS title, CASE at WHEN 1 THEN date '2000-01-01' ELSE date '2000-01-02' END AS due
             FROM (SELECT id, row_number() OVER (ORDER BY id) AS at FROM work_orders WHERE id > 7500) AS numbered WHERE at <= 2) AS n
       WHERE o.id = n.id RETURNING o.id::text`,
      [first, second],
    );
    return rows.map(({ id }) => id).sort();
  });
  return { first, second, keys };
}

test('rows of a spreadsheet are compared with the records, sent as one and undone, by keyboard', async ({
  browser,
}) => {
  const { first, second, keys } = await firstDue();
  const page = await pageOf(browser, 'supervisor');
  await page.goto(upkeep);
  const list = paneOf(page, 'Unfinished orders, longest due first');
  const row = (title: string) => list.getByRole('row').filter({ hasText: title });
  await expect(row(second)).toContainText('Normal');

  await list.getByRole('button', { name: 'Change from a spreadsheet' }).focus();
  await page.keyboard.press('Enter');
  const sheet = page.getByRole('dialog', { name: 'Change work orders from a spreadsheet' });
  const rows = sheet.getByLabel('Rows, with their heads in the first');
  await expect(sheet).toContainText('These can be changed: Priority, Due and Estimate');
  await rows.fill(`Id\tPriority\tDue\n${keys[0]}\tUrgent\t2000-01-01\n${keys[1]}\thigh\twhenever`);
  await rows.press('Tab');
  await page.keyboard.press('Enter');
  await expect(sheet.getByRole('status')).toHaveText('1 work order would change.');
  await expect(sheet).toContainText(`Row 3, ${keys[1]}: Due: “whenever” is not a date`);
  await sheet.getByRole('button', { name: 'Back to the rows' }).click();
  // What was pasted is still there to be mended.
  await expect(rows).toHaveValue(/whenever/);
  await rows.fill((await rows.inputValue()).replace('whenever', '2 Jan 2000'));
  await sheet.getByRole('button', { name: 'Compare' }).click();
  await expect(sheet.getByRole('status')).toHaveText('2 work orders would change.');
  await expect(sheet.getByRole('button', { name: 'Change 2', exact: true })).toBeFocused();
  await page.keyboard.press('Enter');
  const said = page.getByRole('status', { name: 'What was done' });
  await expect(said).toContainText('Pasted changes: 2 work orders.');
  await expect(row(first)).toContainText('Urgent');
  await expect(row(second)).toContainText('High');
  await said.getByRole('button', { name: 'Undo' }).click();
  await expect(row(first)).toContainText('Normal');
  await expect(row(second)).toContainText('Normal');

  // Cells go down and to the right from the cell that has the keyboard.
  const pen = row(first).getByRole('button', { name: /^Change priority of / });
  await pen.focus();
  await pasteInto(pen, 'Low\t1 Jan 2000\nUrgent\t2 Jan 2000');
  await expect(sheet.getByRole('status')).toHaveText('2 work orders would change.');
  await sheet.getByRole('button', { name: 'Change 2', exact: true }).click();
  await expect(row(first)).toContainText('Low');
  await expect(row(second)).toContainText('Urgent');
  await page.context().close();
});

test('a file of new records adds them all; a reader is offered nothing of it', async ({ browser }) => {
  const { first } = await firstDue();
  const title = unique('Renew fenders');
  const page = await pageOf(browser, 'supervisor');
  await page.goto(upkeep);
  const list = paneOf(page, 'Unfinished orders, longest due first');
  await list.getByRole('button', { name: 'Change from a spreadsheet' }).click();
  const sheet = page.getByRole('dialog', { name: 'Change work orders from a spreadsheet' });
  await sheet.getByLabel('new work orders').check();
  const lines = [
    'Title;Vessel;Priority;Due',
    ...['1', '2', '3'].map((each) => `${title} ${each};1;low;3 Jan 2000`),
  ];
  await sheet.getByLabel('A CSV or XLSX file').setInputFiles({
    name: 'orders.csv',
    mimeType: 'text/csv',
    buffer: Buffer.from(`\ufeff${lines.join('\r\n')}\r\n`),
  });
  await sheet.getByRole('button', { name: 'Compare' }).click();
  await expect(sheet.getByRole('status')).toHaveText('3 work orders would be added.');
  await sheet.getByRole('button', { name: 'Add 3', exact: true }).click();
  await expect(list.getByRole('row').filter({ hasText: title })).toHaveCount(3);

  // The same as a spreadsheet program saves it; what is wrong in it is told before anything is compared.
  await list.getByRole('button', { name: 'Change from a spreadsheet' }).click();
  const workbook = async (priority: unknown): Promise<Buffer> => {
    const book = new ExcelJS.Workbook();
    const rows = book.addWorksheet('Orders');
    rows.addRows([
      ['Title', 'Priority'],
      [`${title} 1`, priority],
      [`${title} 2`, 'Low'],
    ]);
    return Buffer.from(await book.xlsx.writeBuffer());
  };
  const send = async (buffer: Buffer): Promise<void> =>
    sheet.getByLabel('A CSV or XLSX file').setInputFiles({
      name: 'orders.xlsx',
      mimeType: 'application/vnd.openxmlformats-officedocument.spreadsheetml.sheet',
      buffer,
    });
  await send(await workbook({ error: '#REF!' }));
  await expect(sheet.getByRole('alert')).toContainText('B2 holds an error (#REF!) and no value');
  await send(await workbook('Urgent'));
  await expect(sheet.getByRole('textbox')).toHaveValue(/Urgent/);
  await sheet.getByRole('button', { name: 'Compare' }).click();
  await expect(sheet.getByRole('status')).toHaveText(
    '1 work order would change. 1 work order has these values already.',
  );
  await sheet.getByRole('button', { name: 'Change 1', exact: true }).click();
  await expect(list.getByRole('row').filter({ hasText: `${title} 1` })).toContainText('Urgent');
  await page.context().close();

  const reader = await pageOf(browser, 'reader');
  await reader.goto(upkeep);
  await expect(paneOf(reader, 'Unfinished orders, longest due first')).toContainText(first);
  await expect(reader.getByRole('button', { name: 'Change from a spreadsheet' })).toHaveCount(0);
  await reader.context().close();
});
