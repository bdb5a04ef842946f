import { randomUUID } from 'node:crypto';
import type { Context } from '#core/dashboard/flow/context.ts';
import { sendChange } from '../server/change/send.ts';
import { subjectOf } from '../server/change/subject.ts';
import { findDataSets } from '../server/store/data-sets.ts';
import { personOf } from '../server/store/people.ts';
import { changeContext } from './changes.ts';

/* Changes records for ever: adds one with two lines, then sets one value on all of five, and so on. Run by a test, which kills it. */

const [dataSetId = '', token = ''] = process.argv.slice(2);
const dataSets = await findDataSets([dataSetId]);
const user = await personOf(token);
if (!user) throw new Error('nobody is signed in');
const context: Context = changeContext(dataSetId, dataSets, user);
const sender = { user, deskId: null, dashboardId: randomUUID(), context };
const five = ['1', '2', '3', '4', '5'];

console.log('ready');
await new Promise((resolve) => process.stdin.once('data', resolve));
for (let turn = 0; ; turn += 1) {
  const batch = randomUUID();
  const isNew = turn % 2 === 0;
  const subject = subjectOf('list', { action: isNew ? 'add' : 'mark' }, context);
  console.log('sending');
  const answer = await sendChange(
    subject,
    {
      batch,
      records: isNew ? [] : five.map((key) => ({ key, saw: {} })),
      values: { note: batch },
      ...(isNew ? { lines: [{ amount: '1' }, { amount: '2' }] } : {}),
    },
    sender,
  );
  console.log(answer.state);
}
