import pg from 'pg';
import { isoYear } from '#core/value/field/instant.ts';
import type { FieldType } from '#core/value/field/types.ts';
import type { Cell } from '#core/value/field/value.ts';
import { type AllowedHosts, CheckedSocket } from '../outgoing/addresses.ts';
import { type Tls, tlsOptions } from '../outgoing/tls.ts';

/** How to reach a PostgreSQL source. */
export interface PostgresAddress extends Tls {
  readonly host: string;
  readonly port: number;
  readonly database: string;
  readonly user: string;
  readonly password: string;
  /** Hosts inside this network that may be reached; all others must be public. */
  readonly allowed: AllowedHosts;
}

export const connectTimeoutMs = 8_000;

/** PostgreSQL's built-in type ids (pg_type.dat), as the types of fields. */
const typeById: Record<number, FieldType> = {
  16: 'boolean',
  20: 'integer',
  21: 'integer',
  23: 'integer',
  26: 'integer',
  1700: 'decimal',
  700: 'float',
  701: 'float',
  1082: 'date',
  1184: 'instant',
  1114: 'instant',
  114: 'nested',
  3802: 'nested',
  25: 'text',
  1043: 'text',
  1042: 'text',
};

/** A field's type for a column's type id; what is not listed is shown as text. */
export const fieldTypeOf = (typeId: number): FieldType => typeById[typeId] ?? 'text';

/** What must be said when reading a column so that it arrives as its field's type. */
export function readOf(typeId: number): 'text' | 'utc' | 'whole' | undefined {
  if (typeId === 1114) return 'utc';
  if (typeId === 26) return 'whole';
  return typeById[typeId] === undefined || typeById[typeId] === 'nested' || typeId === 1042
    ? 'text'
    : undefined;
}

/** `2026-11-23 06:40:00+00`, as a session in UTC writes it, to ISO 8601, whose years before 1 are one less and below nought. Infinity stays as it is. */
function instant(text: string): string {
  const found = /^(\d{4,6})(-\d\d-\d\d) ([\d:.]+)\+00( BC)?$/.exec(text);
  if (!found) return text;
  const [, year = '', day = '', time = '', before] = found;
  return `${isoYear(before ? 1 - Number(year) : Number(year))}${day}T${time}Z`;
}

const asText = (text: string): Cell => text;

/** Every value keeps its exact text, except for booleans and doubles. */
const types = {
  getTypeParser: (typeId: number): ((text: string) => Cell) => {
    switch (fieldTypeOf(typeId)) {
      case 'boolean':
        return (text) => text === 't';
      case 'float':
        return (text) => (Number.isFinite(Number(text)) ? Number(text) : text);
      case 'instant':
        return typeId === 1184 ? instant : asText;
      default:
        return asText;
    }
  },
};

export function clientConfig(address: PostgresAddress): pg.ClientConfig {
  const { tls, authority, allowed, ...where } = address;
  return {
    ...where,
    stream: () => new CheckedSocket(allowed, `connecting to ${where.host}:${where.port}`),
    ssl: tlsOptions({ tls, authority }),
    connectionTimeoutMillis: connectTimeoutMs,
    application_name: 'slate-glass',
    types: types as pg.ClientConfig['types'],
    options:
      '-c TimeZone=UTC -c DateStyle=ISO -c IntervalStyle=iso_8601 -c bytea_output=hex -c extra_float_digits=1',
    keepAlive: true,
  } as pg.ClientConfig;
}

export interface SourcePool {
  readonly pool: pg.Pool;
  /** Kept apart, so that a full pool never stands in the way of stopping what fills it. */
  readonly canceller: pg.Pool;
}

const pools = new Map<string, { address: string; open: SourcePool }>();

/** Connections to a source, shared by everything that asks it. A changed address or credential makes new ones. */
export function poolOf(source: string, address: PostgresAddress): SourcePool {
  const key = JSON.stringify(address);
  const known = pools.get(source);
  if (known?.address === key) return known.open;
  if (known) void endPool(known.open);
  const config = clientConfig(address);
  const sourcePool: SourcePool = {
    pool: new pg.Pool({ ...config, max: 8, idleTimeoutMillis: 30_000 }),
    canceller: new pg.Pool({ ...config, max: 2, idleTimeoutMillis: 5_000 }),
  };
  tolerate(sourcePool.pool);
  tolerate(sourcePool.canceller);
  pools.set(source, { address: key, open: sourcePool });
  return sourcePool;
}

/**
 * A connection that the server drops is replaced at the next use; it is no reason to stop the process. The pool hears
 * of it while the connection is idle, the connection itself while it is lent out.
 */
export function tolerate(pool: pg.Pool): void {
  pool.on('error', () => undefined);
  pool.on('connect', (client) => client.on('error', () => undefined));
}

const endPool = ({ pool, canceller }: SourcePool) => Promise.allSettled([pool.end(), canceller.end()]);

export async function endPools(): Promise<void> {
  const all = [...pools.values()];
  pools.clear();
  await Promise.all(all.map(({ open }) => endPool(open)));
}
