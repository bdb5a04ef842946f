import { problemOf } from '#core/value/problem/problem.ts';
import { groupsOf } from '#testing/plans.ts';
import { refresh } from '../server/kept/refresh.ts';
import { runPlan } from '../server/records/run.ts';
import { receiveFile } from '../server/uploads/files.ts';

/* A process for the test of full disks: refreshes a data set, reads it, takes a file in, and says what came of each. */

const [id = ''] = process.argv.slice(2);
const count = groupsOf({ source: id, request: { kind: 'kept', name: id }, inputs: {}, fields: [] });
const outcome = (work: () => Promise<string>): Promise<string> =>
  work().catch((thrown: unknown) => problemOf(thrown, 'trying').why);

const report = {
  refresh: await outcome(async () => {
    const refreshed = await refresh(id);
    return 'problem' in refreshed ? refreshed.problem.why : refreshed.state;
  }),
  read: await outcome(async () => String((await runPlan(count, { doing: 'counting' })).records[0]?.[0])),
  upload: await outcome(async () =>
    String(
      (await receiveFile(new Blob(['a'.repeat(2_000_000)]).stream() as Parameters<typeof receiveFile>[0]))
        .size,
    ),
  ),
};
process.stdout.write(`${JSON.stringify(report)}\n`);
process.exit(0);
