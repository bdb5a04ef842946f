import type { DataSet } from './schema.ts';

/** Read whether shown or not: a record needs its key to be picked and its title to be named. */
export const keyAndTitle = ({ key, title }: Pick<DataSet, 'key' | 'title'>): string[] =>
  [...new Set([key, title])].filter((name): name is string => name !== undefined);

/** What identifies and names the records of data sets, by their ids. */
export type RecordNames = Readonly<Record<string, { readonly key?: string; readonly title?: string }>>;

export const recordNames = (dataSets: Iterable<readonly [string, DataSet]>): RecordNames =>
  Object.fromEntries(
    [...dataSets].map(([id, { key, title }]) => [
      id,
      { ...(key === undefined ? {} : { key }), ...(title === undefined ? {} : { title }) },
    ]),
  );
