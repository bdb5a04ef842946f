import type { LineFormat } from '#core/dataset/log/schema.ts';
import type { Request } from './schema.ts';

type Of<K extends Request['kind']> = Extract<Request, { kind: K }>;

/** What a service is asked while nothing but a path and a query was said: the rest is found from the answer. */
export const httpRequest = (path: string, query: Of<'http'>['call']['query'] = []): Of<'http'> => ({
  kind: 'http',
  call: { method: 'GET', path, query, headers: [] },
  format: 'auto',
  records: '$',
  paging: { kind: 'none' },
  columns: [],
});

/** What is read of log files before its columns are found. */
export const logRequest = (files: string, line: LineFormat = { kind: 'json' }): Of<'log'> => ({
  kind: 'log',
  files,
  line,
  columns: [],
});
