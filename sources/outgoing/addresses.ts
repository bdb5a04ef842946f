import { lookup } from 'node:dns/promises';
import { isIP } from 'node:net';
import ipaddr from 'ipaddr.js';
import { ProblemError } from '#core/problem/problem.ts';

/** Hosts that an administrator has listed though they are inside: `host` for every port of it, or `host:port`. */
export type AllowedHosts = readonly string[];

/** Whether an address is one of the public internet: not private, loopback, link-local, mapped or otherwise special. */
export function isPublic(address: string): boolean {
  if (!ipaddr.isValid(address)) return false;
  // ::ffff:10.0.0.1 is 10.0.0.1.
  return ipaddr.process(address).range() === 'unicast';
}

const bare = (host: string): string => host.replace(/^\[|\]$/g, '').toLowerCase();

/** Whether a host is listed; `port` null asks whether it is for any port. */
export function isAllowed(host: string, port: number | null, allowed: AllowedHosts): boolean {
  const name = bare(host);
  return allowed.some((each) => {
    const listed = each.trim().toLowerCase();
    const withoutPort = bare(listed.replace(/:\d+$/, ''));
    if (port === null) return listed === name || withoutPort === name;
    return listed === name || listed === `${name}:${port}` || listed === `[${name}]:${port}`;
  });
}

export const refusedHost = (host: string, doing: string): ProblemError =>
  new ProblemError({
    code: 'forbidden',
    doing,
    why: `${host} is inside this network, or this machine itself`,
    mend: 'Have whoever runs this installation list the host in SLATE_OUTGOING, if it is one that may be asked.',
  });

export interface Resolved {
  readonly address: string;
  readonly family: number;
}

/**
 * The addresses of a host that may be connected to; the connection is made to one of these and to nothing that the name
 * leads to later. Throws a {@link ProblemError} when any of them is inside and the host is not listed.
 */
export async function checkedAddresses(
  host: string,
  port: number | null,
  allowed: AllowedHosts,
  doing: string,
  resolve: (host: string) => Promise<Resolved[]> = (name) => lookup(name, { all: true }),
): Promise<Resolved[]> {
  const name = bare(host);
  const family = isIP(name);
  const found = family ? [{ address: name, family }] : await resolve(name);
  if (!isAllowed(name, port, allowed) && found.some(({ address }) => !isPublic(address)))
    throw refusedHost(name, doing);
  return found;
}
