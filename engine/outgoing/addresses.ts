import { lookup } from 'node:dns/promises';
import { isIP, type LookupFunction, Socket } from 'node:net';
import ipaddr from 'ipaddr.js';
import { ProblemError } from '#core/value/problem/problem.ts';

/** Hosts that an administrator has listed though they are inside: `host` for every port of it, or `host:port`. */
export type AllowedHosts = readonly string[];

/** Global unicast addresses (RFC 4291, section 2.4, as IANA assigns them); ::7f00:1 and its like are not among them. */
const globalUnicast = ipaddr.IPv6.parseCIDR('2000::/3');

/** Whether an address is one of the public internet: not private, loopback, link-local, mapped or otherwise special. */
export function isPublic(address: string): boolean {
  if (!ipaddr.isValid(address)) return false;
  // ::ffff:10.0.0.1 is 10.0.0.1.
  const plain = ipaddr.process(address);
  if (plain instanceof ipaddr.IPv6 && !plain.match(globalUnicast)) return false;
  return plain.range() === 'unicast';
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

export interface HostAddress {
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
  resolve: (host: string) => Promise<HostAddress[]> = (name) => lookup(name, { all: true }),
): Promise<HostAddress[]> {
  const name = bare(host);
  const family = isIP(name);
  const found = family ? [{ address: name, family }] : await resolve(name);
  if (!isAllowed(name, port, allowed) && found.some(({ address }) => !isPublic(address)))
    throw refusedHost(name, doing);
  return found;
}

/**
 * A socket that connects only to addresses that may be reached (see {@link checkedAddresses}): for drivers that speak a
 * protocol of their own. Socket files of this machine are no host. Fails with a {@link ProblemError}.
 */
export class CheckedSocket extends Socket {
  constructor(
    private readonly allowed: AllowedHosts,
    private readonly doing: string,
  ) {
    super();
  }

  override connect(...args: unknown[]): this {
    const [port, host] = args;
    if (typeof port !== 'number' || typeof host !== 'string') {
      this.destroy(refusedHost(String(port), this.doing));
      return this;
    }
    // The very addresses that were looked at are connected to: a name could lead elsewhere a moment later.
    checkedAddresses(host, port, this.allowed, this.doing).then(
      (found) => {
        if (this.destroyed) return;
        const lookup = (
          _: string,
          options: { all?: boolean },
          done: (error: null, address: string | HostAddress[], family?: number) => void,
        ): void => {
          const [first] = found;
          if (options.all) done(null, [...found]);
          else done(null, first?.address ?? '', first?.family);
        };
        super.connect({ port, host, lookup: lookup as LookupFunction });
      },
      (thrown: Error) => this.destroy(thrown),
    );
    return this;
  }
}
