import { notAtSource } from '#core/dataset/step/kinds.ts';
import type { Step } from '#core/dataset/step/schema.ts';
import type { Plan, Relation } from '#core/plan/plan.ts';
import { neededOf } from '#core/sql/start.ts';
import { basesOf } from '#core/sql/steps.ts';
import type { PostgresAddress } from '#engine/postgres/pool.ts';
import { liveAddress } from '../store/sources.ts';
import type { Records } from './answers.ts';

export interface Answer {
  readonly records: Records;
  /** ISO 8601: when the records were read at their source. */
  readonly trueAt: string;
  /** Milliseconds. */
  readonly took: number;
  /** The source itself worked it out. */
  readonly live: boolean;
}

export interface Asking {
  /** What is being done, for the problem when it fails. */
  readonly doing: string;
  readonly signal?: AbortSignal | undefined;
  /** Records of a data set that readers do not have yet, read in place of those they have. */
  readonly candidate?: Candidate | undefined;
}

/** A version of kept records before it is given to readers, by its view in the columnar engine. */
export interface Candidate {
  readonly dataSetId: string;
  readonly view: string;
  readonly fields: readonly { name: string }[];
  readonly spans: Relation['spans'];
  readonly trueAt: string;
}

export type Place = { readonly kind: 'live'; readonly address: PostgresAddress } | Columnar;

/** The columnar engine brings the records together. */
export interface Columnar {
  readonly kind: 'columnar';
  readonly bases: ReturnType<typeof basesOf>;
  /** The data sets whose kept records are read, each once. */
  readonly keptIds: readonly string[];
  /** All records are kept ones that readers have. */
  readonly isKept: boolean;
  /** The sources whose records are fetched, with the addresses of those that plans run on. */
  readonly addresses: ReadonlyMap<string, PostgresAddress | null>;
}

/**
 * Where the records of a plan are. Where all of them are on one source that plans run on, the source does everything; else what
 * is live is asked only for the fields that are needed, and the columnar engine brings all together.
 */
export async function placeOf(plan: Plan, { candidate }: Pick<Asking, 'candidate'>): Promise<Place> {
  const { from } = plan;
  const bases = basesOf(from, new Set(neededOf(plan)));
  const asksSource = ({ request }: Relation): boolean => request.kind !== 'kept';
  const sources = [...new Set(bases.flatMap(({ base }) => (asksSource(base) ? [base.source] : [])))];
  const addresses = new Map(
    await Promise.all(sources.map(async (source) => [source, await liveAddress(source)] as const)),
  );
  const address = addresses.get(from.source);
  const isOne = sources.length === 1 && bases.every(({ base }) => asksSource(base));
  if (address && isOne && !stepsOf(from).some((step) => notAtSource(step) !== null))
    return { kind: 'live', address };
  const keptIds = bases.flatMap(({ base: { request } }) =>
    request.kind === 'kept' && request.name !== candidate?.dataSetId ? [request.name] : [],
  );
  return {
    kind: 'columnar',
    bases,
    keptIds: [...new Set(keptIds)],
    isKept: keptIds.length === bases.length,
    addresses,
  };
}

/** The steps of a relation, and those of what it refers to. */
const stepsOf = ({ steps = [] }: Relation): Step[] =>
  steps.flatMap(({ step, others }) => [step, ...others.flatMap(stepsOf)]);
