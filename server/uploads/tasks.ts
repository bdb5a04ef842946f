import { acceptLater, acceptNew, lookAtFile } from './look.ts';
import { rowsOfSheet } from './rows.ts';

const tasks = { look: lookAtFile, acceptNew, acceptLater, rows: rowsOfSheet };
export type Tasks = typeof tasks;

/** Does a task by its name: what the process that reads uploads is told to. */
export const doTask = (name: keyof Tasks, args: readonly unknown[]): Promise<unknown> =>
  (tasks[name] as (...all: readonly unknown[]) => Promise<unknown>)(...args);
