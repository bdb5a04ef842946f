import type { Tools } from '#sources/kind.ts';

/** What a kind of source finds around it where nothing was sent, listed or noted. */
export const sourceTools = (client: Tools['client']): Tools => ({
  client,
  allowed: [],
  logFolders: [],
  received: { batchesAfter: async function* () {}, latest: async () => [] },
  followedUp: async () => [],
  now: () => new Date(),
});
