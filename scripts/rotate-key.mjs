/* `npm run rotate-key`: another key for the credentials, while the product runs. */
import { manageInstallation } from './installation.mjs';

await manageInstallation('Changing the key', async ({ rotateKey }) => {
  const count = await rotateKey();
  return [`${count} credentials are sealed with a new key. Backups from before hold the old one.`];
});
