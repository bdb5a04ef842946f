import type { OpenSource, Tools, WithSecret } from '#sources/kind.ts';
import { type HttpClient, outgoingClient } from '#sources/outgoing/client.ts';
import { kindOf } from '#sources/registry.ts';
import { logFolders, outgoingHosts } from '../settings.ts';
import { followedUp } from '../store/follow-ups.ts';
import { receivedBy } from '../store/intake.ts';
import { sourceWithSecret } from '../store/sources.ts';
import { budgetOf } from './budget.ts';

/** What outgoing calls of a source that is not stored, as while it is being added, are counted against: nothing. */
const noBudget = { spend: async () => undefined, told: async () => undefined };

function clientOf(source: WithSecret, isStored: boolean): HttpClient {
  const { connection, secret, id } = source;
  const now = (): Date => new Date();
  const perDay = kindOf(connection).perDay?.(connection) ?? undefined;
  return outgoingClient({
    allowed: outgoingHosts(),
    authority: 'authority' in connection ? connection.authority : undefined,
    budget: isStored ? budgetOf(id, perDay, now) : noBudget,
    secrets: [secret, ...(source.changer ? [source.changer.secret] : [])],
  });
}

/** Clients by source, so that connections are kept; one whose connection or secret changed is made again. */
const clients = new Map<string, { of: string; client: HttpClient }>();

function keptClient(source: WithSecret): HttpClient {
  const of = JSON.stringify([source.connection, source.secret, source.changer ?? null]);
  const known = clients.get(source.id);
  if (known?.of === of) return known.client;
  void known?.client.close();
  const client = clientOf(source, true);
  clients.set(source.id, { of, client });
  return client;
}

export async function closeClients(): Promise<void> {
  const open = [...clients.values()];
  clients.clear();
  await Promise.allSettled(open.map(({ client }) => client.close()));
}

const toolsFor = (source: WithSecret, client: HttpClient): Tools => ({
  client,
  allowed: outgoingHosts(),
  logFolders: logFolders(),
  received: receivedBy(source.id),
  followedUp,
  now: () => new Date(),
});

/** A stored source, ready to be asked; `onCall` is told of each call of a service. Throws a `ProblemError` when it has gone. */
export async function openSource(sourceId: string, onCall?: () => void): Promise<OpenSource> {
  const source = await sourceWithSecret(sourceId);
  const client = keptClient(source);
  const call: HttpClient['call'] = (request) => client.call({ ...request, onCall });
  return kindOf(source.connection).open(source, toolsFor(source, { ...client, call }));
}

/** Uses a source that is not stored yet; its calls are not counted. */
export async function withUnstored<T>(
  source: WithSecret,
  use: (source: OpenSource) => Promise<T>,
): Promise<T> {
  const client = clientOf(source, false);
  try {
    return await use(kindOf(source.connection).open(source, toolsFor(source, client)));
  } finally {
    await client.close();
  }
}
