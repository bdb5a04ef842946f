import type { FoundTable } from '#core/dataset/found.ts';
import type { Request } from '#core/dataset/schema.ts';
import type { Field } from '#core/field/field.ts';
import { callProblem } from '#core/http/expand.ts';
import type { Relation } from '#core/plan/plan.ts';
import { ProblemError } from '#core/problem/problem.ts';
import type { AllowedHosts } from '#engine/outgoing/addresses.ts';
import type { Connection } from './connection.ts';
import type { CountAsked, FetchInto } from './fetch.ts';
import { asking } from './http/credentials.ts';
import { fetchHttp } from './http/fetch.ts';
import { proveHttp } from './http/prove.ts';
import { tryHttp } from './http/try.ts';
import { fetchIntake, proveIntake, type Received, tryIntake } from './intake/read.ts';
import { fetchLogs, proveLogs, tryLogs } from './logs/read.ts';
import { requireSelect } from './mariadb/check-sql.ts';
import { discoverMaria, proveMaria } from './mariadb/look.ts';
import { fetchMaria, tryMaria } from './mariadb/read.ts';
import { countOData, discoverOData, fetchOData, proveOData, tryOData } from './odata/read.ts';
import type { HttpClient } from './outgoing/client.ts';
import { addressOf } from './postgres/connection.ts';
import { discover } from './postgres/discover.ts';
import { requireSql } from './postgres/functions.ts';
import { provePostgres } from './postgres/prove.ts';
import { fetchPostgres } from './postgres/read.ts';
import { fieldsOfTable, tryRequest } from './postgres/try.ts';
import type { Proof } from './proof.ts';
import type { Tried } from './tried.ts';

/** A source with its credential. */
export interface OpenSource {
  readonly id: string;
  readonly connection: Connection;
  readonly secret: string;
}

/** What kinds of sources need from around them. */
export interface Tools {
  readonly client: HttpClient;
  /** Hosts inside this network that may be reached. */
  readonly allowed: AllowedHosts;
  /** Folders of logs that an administrator has listed. */
  readonly logFolders: readonly string[];
  /** What was sent to the source, where it is an intake. */
  readonly received: Received;
  readonly now: () => Date;
}

export interface Trying {
  readonly request: Request;
  readonly inputs: Relation['inputs'];
  readonly signal?: AbortSignal | undefined;
  readonly limit?: number;
  /** What the request leaves open is found from the answer. */
  readonly find?: boolean;
}

/** What every kind of source can do. All of it throws `ProblemError`s in plain words. */
export interface Kind {
  /** Finds out whether the source can be reached and takes the credential; `path`: what to ask of a service. */
  prove(path?: string): Promise<Proof>;
  /** Tables with columns and keys; null where the source has none to look at. */
  readonly discover: (() => Promise<FoundTable[]>) | null;
  /** What is wrong with a request that is about to be saved; null where it may be. */
  check(request: Request): Promise<string | null>;
  /** The first records of a request. */
  try(trying: Trying): Promise<Tried>;
  readonly fetch: FetchInto;
  /** How many records of a request pass, as exact text; null where it cannot say. Absent: the kind never can. */
  readonly count?: (request: Request, asked: CountAsked) => Promise<string | null>;
}

/** The kinds of requests that can be made of each kind of source. */
export const requestsOf: Record<Connection['kind'], readonly Request['kind'][]> = {
  postgres: ['table', 'sql'],
  mariadb: ['table', 'sql'],
  odata: ['table'],
  http: ['http'],
  logs: ['log'],
  intake: ['intake'],
  upload: ['upload'],
};

function only<K extends Request['kind']>(request: Request, ...kinds: K[]): Extract<Request, { kind: K }> {
  if ((kinds as string[]).includes(request.kind)) return request as Extract<Request, { kind: K }>;
  throw new ProblemError({
    code: 'bad-request',
    doing: 'trying the request',
    why: 'this source cannot be asked in that way',
    mend: 'Choose another source, or describe the request again.',
  });
}

/** For kinds whose requests are all that their schema says. */
const anything = async (): Promise<null> => null;

/** What is wrong, of something that throws a {@link ProblemError} for what a person can correct. */
async function whyNot(require: () => Promise<unknown>): Promise<string | null> {
  try {
    await require();
    return null;
  } catch (thrown) {
    if (thrown instanceof ProblemError && thrown.problem.code === 'bad-request') return thrown.problem.why;
    throw thrown;
  }
}

/** A source as its kind. A new kind is a folder beside this file and a case here. */
export function kindOf(
  { id, connection, secret }: OpenSource,
  { client, allowed, logFolders, received, now }: Tools,
): Kind {
  switch (connection.kind) {
    case 'postgres': {
      const address = addressOf(connection, secret, allowed);
      return {
        prove: () => provePostgres(address, now),
        discover: () => discover(address),
        check: async (request) =>
          request.kind === 'sql' ? whyNot(() => requireSql(request.text, address)) : null,
        try: ({ request, inputs, signal, limit = 50 }) =>
          tryRequest(only(request, 'table', 'sql'), { source: id, address, inputs, signal, limit }),
        fetch: fetchPostgres(address, id),
      };
    }
    case 'mariadb': {
      const address = { ...connection, password: secret, allowed };
      return {
        prove: () => proveMaria(address, now),
        discover: () => discoverMaria(address),
        check: async (request) =>
          request.kind === 'sql' ? whyNot(async () => requireSelect(request.text)) : null,
        try: ({ request, inputs, limit }) => {
          const asked = only(request, 'table', 'sql');
          const fields: Field[] = asked.kind === 'table' ? fieldsOfTable(asked) : [];
          return tryMaria(address, asked, fields, inputs, limit);
        },
        fetch: fetchMaria(address),
      };
    }
    case 'http': {
      const ask = asking(connection.auth, secret, client);
      const service = { base: connection.base, ask };
      return {
        prove: (path = '') => proveHttp(connection, ask, path, now),
        discover: null,
        check: async (request) => (request.kind === 'http' ? callProblem(request.call) : null),
        try: ({ request, inputs, signal, find = false }) =>
          tryHttp(service, { request: only(request, 'http'), inputs, signal }, find),
        fetch: fetchHttp(service),
      };
    }
    case 'odata': {
      const ask = asking(connection.auth, secret, client);
      const service = { base: connection.base, ask };
      return {
        prove: () => proveOData(connection, ask, now),
        discover: () => discoverOData(service),
        check: anything,
        try: ({ request, signal, limit = 50 }) => {
          const asked = only(request, 'table');
          return tryOData(service, asked, fieldsOfTable(asked), { signal, limit });
        },
        fetch: fetchOData(service),
        count: (request, asked) => countOData(service, only(request, 'table'), asked),
      };
    }
    case 'logs':
      return {
        prove: () => proveLogs(connection.folder, logFolders, now),
        discover: null,
        check: anything,
        try: ({ request, limit, find = false }) =>
          tryLogs(connection.folder, logFolders, only(request, 'log'), find, limit),
        fetch: fetchLogs(connection.folder, logFolders),
      };
    case 'intake':
      return {
        prove: () => proveIntake(received, now),
        discover: null,
        check: anything,
        try: ({ request, limit }) => tryIntake(received, only(request, 'intake'), limit),
        fetch: fetchIntake(received),
      };
    case 'upload':
      throw new ProblemError({
        code: 'missing',
        doing: 'finding the source',
        why: 'uploaded files are no source that could be asked',
        mend: 'Their records are kept; look at the data sets made of them.',
      });
  }
}
