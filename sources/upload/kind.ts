import { ProblemError } from '#core/value/problem/problem.ts';
import type { SourceKind } from '../kind.ts';
import type { UploadConnection } from './connection.ts';

/** The one source that files from somebody's hand belong to. Their records are kept: it is never asked. */
export const upload: SourceKind<UploadConnection> = {
  label: 'Uploaded files',
  requests: ['upload'],
  adding: null,
  page: '/workroom/upload',
  secretPlaces: ({ kind }) => kind,
  where: () => 'Files from somebody’s hand',
  changing: null,
  linesAs: null,
  hasTables: false,
  begins: null,
  open: () => {
    throw new ProblemError({
      code: 'missing',
      doing: 'finding the source',
      why: 'uploaded files are not a source that can be asked',
      mend: 'Their records are kept; look at the data sets made of them.',
    });
  },
};
