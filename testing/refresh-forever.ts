import { refresh } from '../server/kept/refresh.ts';

/* A process for the test that kills it: refreshes one data set again and again, and says when each begins. */

const [id = ''] = process.argv.slice(2);
// Starting takes longer than refreshing, so it is started ahead of time and told when to begin.
await new Promise((resolve) => process.stdin.once('data', resolve));
for (;;) {
  process.stdout.write('begins\n');
  const refreshed = await refresh(id);
  if (refreshed.state === 'done') process.stdout.write('done\n');
  if (refreshed.state === 'failed') process.stdout.write(`failed ${JSON.stringify(refreshed.problem)}\n`);
}
