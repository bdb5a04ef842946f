import { fork } from 'node:child_process';
import { z } from 'zod';
import { type Problem, ProblemError } from '#core/value/problem/problem.ts';
import { inTurn } from '../turns/in-turn.ts';
import type { Tasks } from './tasks.ts';

/*
 * Files of people are read in a process of their own, which has so much memory and no more: one that is made to take it all ends
 * that process, and nobody else notices.
 */

type Result<Name extends keyof Tasks> = Awaited<ReturnType<Tasks[Name]>>;

/** What such a process answers. */
const Answer = z.union([
  z.object({ ok: z.literal(true), result: z.unknown() }),
  z.object({ ok: z.literal(false), problem: z.custom<Problem>() }),
]);

/** Megabytes of the heap; what is read in columns comes on top, within a limit of its own. */
const mostMemory = 256;
const mostSeconds = 600;
/** Does a task in a process of its own, where this installation names its program; else here. Throws a {@link ProblemError}. */
export async function readAside<Name extends keyof Tasks>(
  name: Name,
  ...args: Parameters<Tasks[Name]>
): Promise<Result<Name>> {
  const program = process.env.SLATE_READER;
  if (!program) {
    const { doTask } = await import('./tasks.ts');
    return doTask(name, args) as Promise<Result<Name>>;
  }
  return inTurn(
    'upload',
    '',
    () =>
      new Promise<Result<Name>>((resolve, reject) => {
        const child = fork(program, {
          execArgv: [`--max-old-space-size=${mostMemory}`],
          stdio: ['ignore', 'ignore', 'ignore', 'ipc'],
        });
        const timer = setTimeout(() => child.kill('SIGKILL'), mostSeconds * 1000);
        const settle = (finish: () => void): void => {
          clearTimeout(timer);
          finish();
        };
        child.once('message', (message) => {
          const answer = Answer.parse(message);
          settle(() =>
            answer.ok ? resolve(answer.result as Result<Name>) : reject(new ProblemError(answer.problem)),
          );
          child.kill();
        });
        child.once('error', (error) => settle(() => reject(error)));
        child.once('exit', () => settle(() => reject(tooLarge())));
        child.send({ name, args });
      }),
  );
}

const tooLarge = (): ProblemError =>
  new ProblemError({
    code: 'too-much',
    doing: 'reading the file',
    why: 'reading it takes more memory or time than one file may have',
    mend: 'Save the sheet as CSV, or split the file, and upload that.',
  });
