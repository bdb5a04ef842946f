/* `npm run restore -- FILE`: an installation put back from a backup, where there is nothing yet. */
import { manageInstallation, passphrase } from './installation.mjs';

const [file] = process.argv.slice(2);
await manageInstallation('The restore', async ({ migrateDatabase, restore }) => {
  if (!file) throw new Error('say from which file: npm run restore -- FILE');
  const count = await restore(file, await passphrase());
  await migrateDatabase();
  return [`Everything of ${file} is here, ${count} credentials among it. Start with: npm start`];
});
