import type { FoundTable } from '#core/dataset/found.ts';
import type { DataSet, Request } from '#core/dataset/schema.ts';
import type { Relation } from '#core/plan/plan.ts';
import { ProblemError } from '#core/value/problem/problem.ts';
import type { AllowedHosts } from '#engine/outgoing/addresses.ts';
import type { PostgresAddress } from '#engine/postgres/pool.ts';
import type { Connection } from './connection.ts';
import type { ConnectionReport } from './connection-report.ts';
import type { CountRequest, FetchInto } from './fetch.ts';
import type { FormPart, FormTexts } from './form.ts';
import type { Received } from './intake/read.ts';
import type { HttpClient } from './outgoing/client.ts';
import type { Trial } from './trial.ts';

/* What a kind of source answers. Nothing outside its folder asks which kind a source is of. */

/** What kinds of sources need from around them. */
export interface Tools {
  readonly client: HttpClient;
  /** Hosts inside this network that may be reached. */
  readonly allowed: AllowedHosts;
  /** Folders of logs that an administrator has listed. */
  readonly logFolders: readonly string[];
  /** What was sent to the source, where things are sent to it. */
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

/** A source with its credential. */
export interface WithSecret<C extends Connection = Connection> {
  readonly id: string;
  readonly connection: C;
  readonly secret: string;
}

/** A source that can be asked. All of it throws `ProblemError`s in plain words. */
export interface OpenSource {
  /** Finds out whether the source can be reached and takes the credential; `path`: what to ask of a service. */
  test(path?: string): Promise<ConnectionReport>;
  /** Tables with columns and keys; null where the source has none to look at. */
  readonly discover: (() => Promise<FoundTable[]>) | null;
  /** What is wrong with a request that is about to be saved; null where it may be. */
  check(request: Request): Promise<string | null>;
  /** The first records of a request. */
  try(trying: Trying): Promise<Trial>;
  readonly fetch: FetchInto;
  /** How many records of a request pass, as exact text; null where it cannot say. Absent: the kind never can. */
  readonly count?: (request: Request, asked: CountRequest) => Promise<string | null>;
}

/** How a source of a kind is added. */
export interface Adding<C extends Connection> {
  /** What is asked for; folders are those of logs that an administrator has listed. */
  readonly form: (folders: readonly string[]) => readonly FormPart[];
  /** What the form says of a connection, not checked yet. */
  readonly connectionOf: (texts: FormTexts) => unknown;
  /** The field of the form that a part of the connection comes from. */
  readonly fieldOf?: (path: readonly PropertyKey[]) => string | undefined;
  /** What the form shows of a source there is: all but its secret. */
  readonly saidOf: (connection: C) => Record<string, string>;
}

/** A source that is made here, and not found: it has nothing to be tested. */
export interface Making<C extends Connection> {
  readonly words: string;
  /** A connection, and the key that is shown once. */
  readonly make: () => { readonly connection: C; readonly key: string };
}

export interface SourceKind<C extends Connection = Connection> {
  /** What people call it. */
  readonly label: string;
  /** The kinds of requests that can be made of it. */
  readonly requests: readonly Request['kind'][];
  /** Null: nobody adds one by hand. */
  readonly adding: Adding<C> | Making<C> | null;
  /**
   * Everywhere that its secret is sent to, as one text: while this stays the same, a secret that is known can stay too.
   * Otherwise whoever changes an address could have it sent to a place of their own.
   */
  readonly secretPlaces: (connection: C) => string;
  /** Where a source is, in a few words. */
  readonly where: (connection: C) => string;
  /** How many of its calls may be made in a day, null for no limit; absent where they are not counted. */
  readonly perDay?: (connection: C) => number | null;
  /** It has tables to choose from. */
  readonly hasTables: boolean;
  /** What a data set of it asks while nothing has been said; null where one chooses a table first. */
  readonly begins: Pick<DataSet, 'request' | 'keep'> | null;
  /** What is looked at while it is added, where it has no tables; `path` is what somebody wants to see. */
  readonly first?: (path: string) => Request | null;
  /** Plans run on it as it is: where, and as whom. */
  readonly live?: (connection: C, secret: string, allowed: AllowedHosts) => PostgresAddress;
  readonly open: (source: WithSecret<C>, tools: Tools) => OpenSource;
}

/** A request of one of the kinds that a source takes. Throws a {@link ProblemError} for any other. */
export function only<K extends Request['kind']>(
  request: Request,
  ...kinds: K[]
): Extract<Request, { kind: K }> {
  if ((kinds as string[]).includes(request.kind)) return request as Extract<Request, { kind: K }>;
  throw new ProblemError({
    code: 'bad-request',
    doing: 'trying the request',
    why: 'this source cannot be asked in that way',
    mend: 'Choose another source, or describe the request again.',
  });
}

/** For kinds whose requests are all that their schema says. */
export const anything = async (): Promise<null> => null;

/** What is wrong, of something that throws a {@link ProblemError} for what a person can correct. */
export async function whyNot(require: () => Promise<unknown>): Promise<string | null> {
  try {
    await require();
    return null;
  } catch (thrown) {
    if (thrown instanceof ProblemError && thrown.problem.code === 'bad-request') return thrown.problem.why;
    throw thrown;
  }
}
