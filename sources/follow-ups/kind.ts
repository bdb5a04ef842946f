import { anything, only, type SourceKind } from '../kind.ts';
import type { FollowUpsConnection } from './connection.ts';
import { fetchFollowUps, tryFollowUps } from './read.ts';

/** The one source that what people note here of records belongs to. */
export const followUps: SourceKind<FollowUpsConnection> = {
  label: 'Follow-ups',
  requests: ['follow-ups'],
  adding: null,
  secretPlaces: ({ kind }) => kind,
  where: () => 'What people noted here of records',
  changing: null,
  linesAs: null,
  hasTables: false,
  begins: null,
  open: (_, { followedUp, now }) => ({
    test: async () => ({ facts: [], warnings: [], clockSkewMs: null, tookMs: 0, at: now().toISOString() }),
    discover: null,
    check: anything,
    try: ({ request, limit }) => tryFollowUps(followedUp, only(request, 'follow-ups'), limit),
    fetch: fetchFollowUps(followedUp),
  }),
};
