import { following } from '#core/dataset/kept/schema.ts';
import { logRequest } from '#core/dataset/start.ts';
import { textsOf } from '../form.ts';
import { anything, only, type SourceKind } from '../kind.ts';
import type { LogsConnection } from './connection.ts';
import { fetchLogs, testLogs, tryLogs } from './read.ts';

export const logs: SourceKind<LogsConnection> = {
  label: 'Log files',
  requests: ['log'],
  adding: {
    form: (folders) => [
      {
        part: 'text',
        name: 'folder',
        label: 'Folder',
        hint:
          folders.length > 0
            ? `One of these, or a folder in one: ${folders.join(', ')}`
            : 'Whoever runs this installation lists folders in SLATE_LOG_FOLDERS; none is listed yet.',
        usual: folders[0] ?? '',
        among: folders,
      },
    ],
    connectionOf: ({ folder }) => ({ kind: 'logs', folder }),
    saidOf: textsOf,
  },
  secretPlaces: ({ kind }) => kind,
  where: ({ folder }) => `Log files in ${folder}`,
  changing: null,
  linesAs: null,
  hasTables: false,
  begins: { request: logRequest('**'), keep: following },
  first: () => logRequest('**'),
  open: ({ connection: { folder } }, { logFolders, now }) => ({
    test: () => testLogs(folder, logFolders, now),
    discover: null,
    check: anything,
    try: ({ request, limit, find = false }) => tryLogs(folder, logFolders, only(request, 'log'), find, limit),
    fetch: fetchLogs(folder, logFolders),
  }),
};
