import { defineConfig } from 'vitest/config';
import { BaseSequencer, type TestSpecification } from 'vitest/node';

/** Tests that take longer than a minute, which are begun with, lest one core waits for the other in the end. */
const longest = ['kept/kill', 'columnar/equal', 'change/kill', 'kept/faults', 'columnar/steps'];

class LongestFirst extends BaseSequencer {
  override async sort(files: TestSpecification[]): Promise<TestSpecification[]> {
    const place = ({ moduleId }: TestSpecification): number => {
      const at = longest.findIndex((name) => moduleId.includes(name));
      return at < 0 ? longest.length : at;
    };
    return (await super.sort(files)).sort((a, b) => place(a) - place(b));
  }
}

const testsOf = (layers: string): string => `${layers}/**/*.test.{ts,tsx}`;

export default defineConfig({
  test: {
    environment: 'node',
    // Many tests wait for a database or for a process to end, so three at a time suit two cores.
    maxWorkers: 3,
    sequence: { sequencer: LongestFirst },
    // For what hangs: whoever shares the machine may slow it down to a third, and no test is about how long it takes.
    testTimeout: 300_000,
    hookTimeout: 300_000,
    projects: [
      // What has no state of its own needs no process of its own for each file.
      { extends: true, test: { name: 'core', include: [testsOf('core')], isolate: false } },
      {
        extends: true,
        test: {
          name: 'with databases',
          include: [testsOf('{engine,sources,server,demo,scripts,app}')],
          isolate: false,
          setupFiles: './testing/each-file.ts',
          globalSetup: './scripts/test-cluster.mjs',
          // The throw-away databases are on this machine.
          env: { SLATE_OUTGOING: '127.0.0.1' },
        },
      },
    ],
  },
});
