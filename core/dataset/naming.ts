import type { DataSet } from './schema.ts';

/** Read whether shown or not: a record needs its key to be picked and its title to be named. */
export const keyAndTitle = ({ key, title }: Pick<DataSet, 'key' | 'title'>): string[] =>
  [...new Set([key, title])].filter((name): name is string => name !== undefined);
