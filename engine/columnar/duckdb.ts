/** The library, which takes a fifth of a second to load: a process that asks for no kept records goes without. */
export const duckdb = (): Promise<typeof import('@duckdb/node-api')> => import('@duckdb/node-api');
