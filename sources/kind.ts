import type { Filter, FilterTest } from '#core/ask/condition/resolve.ts';
import type { FoundTable } from '#core/dataset/found.ts';
import type { Candidate } from '#core/dataset/http/candidates.ts';
import type { Mark } from '#core/dataset/log/formats.ts';
import type { DataSet, Request } from '#core/dataset/schema.ts';
import type { Relation } from '#core/plan/plan.ts';
import type { Field } from '#core/value/field/field.ts';
import type { FieldType } from '#core/value/field/types.ts';
import type { Cell } from '#core/value/field/value.ts';
import { ProblemError } from '#core/value/problem/problem.ts';
import type { Rejected } from '#engine/columnar/staged.ts';
import type { Staging } from '#engine/columnar/staging.ts';
import type { AllowedHosts } from '#engine/outgoing/addresses.ts';
import type { PostgresAddress } from '#engine/postgres/pool.ts';
import type { ChangeSource } from './change.ts';
import type { Connection } from './connection.ts';

import type { FollowedUpRecords } from './follow-ups/read.ts';
import type { ChangerForm, FormPart, FormTexts } from './form.ts';
import type { Received } from './intake/read.ts';
import type { HttpClient } from './outgoing/client.ts';

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
  /** What people noted here of records. */
  readonly followedUp: FollowedUpRecords;
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

/** What proving a source found, as a person reads it. */
export interface ConnectionReport {
  readonly facts: readonly { readonly name: string; readonly value: string }[];
  /** What should be changed though it works. */
  readonly warnings: readonly string[];
  /** How far the source's clock is ahead of ours; negative is behind. Milliseconds; null where it told no time. */
  readonly clockSkewMs: number | null;
  readonly tookMs: number;
  /** ISO 8601. */
  readonly at: string;
}

/** A field that changes its type among the records: it stays text, and these are the texts that made it so. */
export interface MixedField {
  readonly name: string;
  readonly type: FieldType;
  readonly others: number;
  readonly examples: readonly string[];
}

/** A line of a log with the fields that were found in it; without any where it does not fit. */
export interface TriedLine {
  readonly text: string;
  readonly marks: readonly Mark[] | null;
}

/** The first records of a request, with what they are made of. */
export interface Trial {
  readonly request: Request;
  readonly fields: readonly Field[];
  readonly records: readonly (readonly Cell[])[];
  /** Milliseconds. */
  readonly took: number;
  readonly more: boolean;
  readonly mixed?: readonly MixedField[];
  /** Places in a service's answer where records may be. */
  readonly candidates?: readonly Candidate[];
  /** How a log's lines were read. */
  readonly lines?: {
    readonly sample: readonly TriedLine[];
    readonly matched: number;
    readonly missed: number;
    readonly files: readonly string[];
  };
}

/** What is to be fetched of a source, all of it or from where the last time ended. */
export interface Fetch {
  readonly request: Request;
  readonly inputs: Relation['inputs'];
  /** The fields wanted, which are the writer's columns in that order. */
  readonly fields: readonly { readonly name: string; readonly type: FieldType }[];
  /** Only records whose field is at or after a value, or only after it. */
  readonly since?:
    | { readonly field: string; readonly value: string; readonly inclusive: boolean }
    | undefined;
  /** Records that do not pass need not be fetched, where the source can tell; more may come than pass. */
  readonly where?: Filter | undefined;
  /** Where the last fetch ended, as the kind of source said then. */
  readonly position: unknown;
  readonly doing: string;
  readonly signal?: AbortSignal | undefined;
  /** More records than this are not fetched: it is an error that names the number. */
  readonly most?: number | undefined;
  /** Told of records as they arrive. Throws when the fetch is to be stopped. */
  readonly progress: (records: number) => Promise<void>;
}

export interface FetchResult {
  readonly records: number;
  /** Goes with the version that the records become part of, and comes back as `position`. */
  readonly position?: unknown;
  /** There is more, which the next fetch brings. */
  readonly more?: boolean;
  /** What of it could not be read; asked once the records are written, and told how many those were, where that is known. */
  readonly rejected?: (written: number | null) => Promise<Rejected>;
  /** Calls of a service that were spent. */
  readonly calls?: number;
}

/** What is to be counted at a source. */
export interface CountRequest {
  readonly where: Filter;
  readonly doing: string;
  readonly signal?: AbortSignal | undefined;
}

/** There are more records than may be fetched; says how many that are. */
export class TooManyRecords extends ProblemError {
  constructor(doing: string, most: number) {
    super({
      code: 'too-much',
      doing,
      why: `there are more than ${most.toLocaleString('en-GB')} records, which is as many as are fetched while somebody waits`,
      mend: 'Keep the data set’s records instead, or ask for fewer.',
    });
  }
}

/** Puts the records of a request into a writer, as texts. Throws a `ProblemError`; what is in the writer is then worth nothing. */
export type FetchInto = (writer: Staging, fetch: Fetch) => Promise<FetchResult>;

/** A source with its credential. */
export interface WithSecret<C extends Connection = Connection> {
  readonly id: string;
  readonly connection: C;
  readonly secret: string;
  /** Who changes records there, apart from who reads them; absent where nobody may. */
  readonly changer?: { readonly user: string; readonly secret: string } | undefined;
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
  readonly count?: (request: Request, query: CountRequest) => Promise<string | null>;
  /** Changes its records; null where nobody may. Absent: the kind takes none. */
  readonly changes?: ChangeSource | null;
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
  /** Null: there is one by itself, and nobody adds another. */
  readonly adding: Adding<C> | Making<C> | null;
  /**
   * Everywhere that its secret is sent to, as one text: while this stays the same, a secret that is known can stay too.
   * Otherwise whoever changes an address could have it sent to a place of their own.
   */
  readonly secretPlaces: (connection: C) => string;
  /** Where it is looked after, if not on the page that every source has. */
  readonly page?: string;
  /** Where a source is, in a few words. */
  readonly where: (connection: C) => string;
  /** How many of its calls may be made in a day, null for no limit; absent where they are not counted. */
  readonly perDay?: (connection: C) => number | null;
  /** What is asked for to name who changes its records, apart from who reads them; null where nobody can. */
  readonly changing: ((connection: C) => ChangerForm) | null;
  /** How it takes records that come with the one that is added: in its transaction, or within it under a name; null where it does not. */
  readonly linesAs: 'rows' | 'member' | null;
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

export const sinceTest = (since: NonNullable<Fetch['since']>): FilterTest => ({
  op: since.inclusive ? 'atLeast' : 'above',
  value: since.value,
});
