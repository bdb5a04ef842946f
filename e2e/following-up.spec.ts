import { readFileSync } from 'node:fs';
import { unique } from './support/make.ts';
import { expect, pageOf, paneOf, test, withDatabase } from './support/people.ts';

/* People tell each other of what they noted, with files. */

const upkeep = '/desk/skerry-sound/vessel-upkeep';

test('whoever is told of a note has it counted on the page that is open, finds it with its file, and has seen it then', async ({
  browser,
}) => {
  const title = unique('Grease the winch');
  await withDatabase('sound_ops', (client) =>
    client.query(
      `UPDATE work_orders SET title = $1, due_on = '1999-12-31', status = 'open', done_at = NULL
       WHERE id = (SELECT id FROM work_orders ORDER BY id DESC OFFSET 40 LIMIT 1)`,
      [title],
    ),
  );
  const analyst = await pageOf(browser, 'analyst');
  await analyst.goto(upkeep);
  const link = analyst.getByRole('link', { name: /^Follow-ups/ });
  const count = async (): Promise<number> =>
    Number(/(\d+) for you/.exec((await link.textContent()) ?? '')?.[1] ?? 0);
  const before = await count();

  const supervisor = await pageOf(browser, 'supervisor');
  await supervisor.goto(upkeep);
  const list = paneOf(supervisor, 'Unfinished orders, longest due first');
  await list.getByRole('row').filter({ hasText: title }).focus();
  await supervisor.keyboard.press('Enter');
  const followUp = supervisor.getByRole('region', { name: 'Follow-up' });
  const note = unique('The drum is worn');
  await followUp.getByLabel('What was learnt, or is to be done').fill(note);
  await followUp.getByRole('button', { name: 'Tell somebody …' }).click();
  await supervisor.getByRole('dialog', { name: 'Who is told' }).getByLabel('Magnus Drever').check();
  await supervisor.keyboard.press('Escape');
  await expect(followUp.getByRole('button', { name: 'Tell Magnus Drever' })).toBeVisible();
  const files = followUp.getByLabel('Files of the note');
  await files.setInputFiles({ name: 'large.bin', mimeType: 'text/plain', buffer: Buffer.alloc(5_100_000) });
  await expect(followUp.getByRole('alert')).toHaveText('Together they may have 5 MB, and these are larger.');
  await files.setInputFiles({ name: 'drum.txt', mimeType: 'text/plain', buffer: Buffer.from('<b>worn</b>') });
  await followUp.getByRole('button', { name: 'Note it' }).click();
  await expect(followUp.getByRole('list', { name: 'What was said' })).toContainText(note);
  await expect(followUp).toContainText('told Magnus Drever');
  await supervisor.context().close();

  // The page was open all the while.
  await expect.poll(count).toBe(before + 1);
  await link.click();
  await analyst.getByRole('list', { name: 'To be followed up' }).getByRole('button', { name: title }).click();
  const theirs = analyst.getByRole('region', { name: 'Follow-up' });
  await expect(theirs).toContainText(note);
  const download = analyst.waitForEvent('download');
  await theirs.getByRole('link', { name: 'drum.txt' }).click();
  expect(readFileSync(await (await download).path(), 'utf8')).toBe('<b>worn</b>');
  await expect(async () => {
    await analyst.goto(upkeep);
    expect(await count()).toBe(before);
  }).toPass();
  await analyst.context().close();
});
