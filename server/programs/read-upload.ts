export { problemOf } from '#core/value/problem/problem.ts';
export { doTask } from '../uploads/tasks.ts';
