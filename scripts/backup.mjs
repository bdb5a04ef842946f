/* `npm run backup -- FILE`: everything of the installation into one file. */
import { manageInstallation, passphrase } from './installation.mjs';

const [file] = process.argv.slice(2);
await manageInstallation('The backup', async ({ backUp, leastPassphrase }) => {
  if (!file) throw new Error('say into which file: npm run backup -- FILE');
  const words = await passphrase();
  if (words.length < leastPassphrase)
    throw new Error(
      `the passphrase needs at least ${leastPassphrase} characters; set SLATE_PASSPHRASE or type it`,
    );
  const bytes = await backUp(file, words);
  return [
    `${file} is written, ${(bytes / 1e6).toFixed(1)} MB. Keep the passphrase: without it no credential in it can be read.`,
  ];
});
