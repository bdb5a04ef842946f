import { following } from '#core/dataset/kept/schema.ts';
import { anything, only, type SourceKind } from '../kind.ts';
import type { IntakeConnection } from './connection.ts';
import { hashOfKey, newKey } from './key.ts';
import { fetchIntake, testIntake, tryIntake } from './read.ts';

export const intake: SourceKind<IntakeConnection> = {
  label: 'Sent to us',
  requests: ['intake'],
  adding: {
    words:
      'Services send their events here: OTLP logs over HTTP, or lines of JSON. A key is made when you add it, and shown once.',
    make: () => {
      const key = newKey();
      return { connection: { kind: 'intake', keyHash: hashOfKey(key) }, key };
    },
  },
  secretPlaces: ({ kind }) => kind,
  where: () => 'Events that are sent to us',
  changing: null,
  linesAs: null,
  hasTables: false,
  begins: { request: { kind: 'intake', columns: [] }, keep: following },
  open: (_, { received, now }) => ({
    test: () => testIntake(received, now),
    discover: null,
    check: anything,
    try: ({ request, limit }) => tryIntake(received, only(request, 'intake'), limit),
    fetch: fetchIntake(received),
  }),
};
