/* `npm run definitions -- pull|check|push FILE [--desk SLUG] [--publish]`: definitions between the installation and a file. */
import { parseArgs } from 'node:util';
import { manageInstallation } from './installation.mjs';

await manageInstallation('This', async ({ checkDefinitions, pullDefinitions, pushDefinitions }) => {
  const { positionals, values } = parseArgs({
    allowPositionals: true,
    options: { desk: { type: 'string' }, publish: { type: 'boolean', default: false } },
  });
  const [what, file] = positionals;
  if (!file) throw new Error('say what to do with which file: npm run definitions -- pull|check|push FILE');
  if (what === 'pull') return pullDefinitions(file, values.desk);
  if (what === 'check') return checkDefinitions(file);
  if (what === 'push') return pushDefinitions(file, { desk: values.desk, publishes: values.publish });
  throw new Error(`“${what}” is none of pull, check and push`);
});
