import type { DataSet } from './schema.ts';

/** All data sets, by id. */
export type World = ReadonlyMap<string, DataSet>;
