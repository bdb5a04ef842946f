import { addPane, startDashboard } from './support/build.ts';
import { choose, expect, paneOf, test } from './support/people.ts';

const training = (rows: readonly string[]): Buffer =>
  Buffer.from(`crew no;course;passed on;mark\n${rows.join('\n')}\n`);

test('an analyst uploads a file, sees what is wrong with it, accepts it, and replaces it by a later one', async ({
  analyst,
}) => {
  await analyst.goto('/workroom/sources/new');
  await analyst.getByRole('link', { name: 'A file instead' }).click();
  await analyst.getByLabel('Choose a file').setInputFiles({
    name: 'nothing.bin',
    mimeType: 'text/csv',
    buffer: Buffer.from('PK\u0003\u0004 pretending to be a table'),
  });
  await expect(analyst.getByRole('alert')).toContainText('no spreadsheet at all');

  await analyst.getByLabel('Choose a file').setInputFiles({
    name: 'crew-training.csv',
    mimeType: 'text/csv',
    buffer: training([
      '007;Fire at sea;2026-11-02;64',
      '008;Radio;2026-11-03;71.5',
      '009;Radio;2026-11-03;80',
      '010;Radio;2026-11-04;90',
      '011;Radio;2026-11-05;n/a',
      '012;short',
    ]),
  });
  await expect(analyst.getByLabel('Name', { exact: true })).toHaveValue('Crew training');
  await expect(analyst.getByLabel('Fields are separated by')).toHaveText('semicolons');
  // Numbers with zeros in front are codes, and a column with one word among its numbers stays text and says so.
  await expect(analyst.getByLabel('Type of crew no')).toHaveText('text');
  await expect(analyst.getByLabel('Type of passed on')).toHaveText('date');
  await expect(analyst.getByLabel('Type of mark')).toHaveText('text');
  await expect(analyst.getByText('All but 1 are decimal: such as “n/a”')).toBeVisible();
  await expect(analyst.getByRole('region', { name: '1 line that cannot be read' })).toContainText(
    '012;short',
  );
  await choose(analyst.getByLabel('Type of mark'), 'decimal');
  await analyst.getByLabel('One record is one').fill('result');
  await analyst.getByLabel('Several are').fill('results');
  await analyst.getByRole('button', { name: 'Accept the file' }).click();
  await expect(analyst.getByRole('alert')).toContainText('1 value of “mark” cannot be read as decimal');
  await choose(analyst.getByLabel('Type of mark'), 'text');
  await analyst.getByRole('button', { name: 'Accept the file' }).click();

  await expect(analyst.getByRole('heading', { name: 'Crew training' })).toBeVisible();
  const records = analyst.getByRole('region', { name: 'Its records' });
  await expect(records.getByRole('cell', { name: '007' })).toBeVisible();
  await analyst.getByRole('link', { name: 'Kept records' }).click();
  await expect(analyst.getByRole('region', { name: 'Refreshes' }).getByRole('row').nth(1)).toContainText('5');

  await startDashboard(analyst, 'Training');
  await addPane(analyst, 'Crew training', /How many\?/);
  await analyst.getByLabel('Title', { exact: true }).fill('Passed');
  await analyst.getByRole('button', { name: 'Save the brief' }).click();
  await expect(paneOf(analyst, 'Passed')).toContainText('5');
  const draft = analyst.url();

  await analyst.goto('/workroom');
  await analyst.getByRole('link', { name: 'Crew training' }).click();
  await analyst.getByRole('link', { name: 'Kept records' }).click();
  await analyst.getByRole('link', { name: 'Upload a later file' }).click();
  const later = async (rows: readonly string[]): Promise<void> =>
    analyst.getByLabel('Choose a file').setInputFiles({
      name: 'crew-training-december.csv',
      mimeType: 'text/csv',
      buffer: training(rows),
    });
  await later(['013;Radio;2026-12-01;77', '014;Radio;2026-12-02;78']);
  await choose(analyst.getByLabel('And', { exact: true }), 'is added to those there are');
  await analyst.getByRole('button', { name: 'Accept the file' }).click();
  await expect(analyst.getByRole('region', { name: 'Refreshes' }).getByRole('row').nth(1)).toContainText('7');
  await analyst.goto(draft);
  await expect(paneOf(analyst, 'Passed')).toContainText('7');
});
