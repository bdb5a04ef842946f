import { setImmediate } from 'node:timers/promises';
import { notAtSource } from '#core/dataset/step/kinds.ts';
import type { Step } from '#core/dataset/step/schema.ts';
import { allOf, type Plan, type RecordsPlan, type Relation } from '#core/plan/plan.ts';
import { compile, compileCount, compileOrdered, neededOf, type Query } from '#core/sql/compile.ts';
import { duckdb } from '#core/sql/dialect/columnar/dialect.ts';
import { basesOf, isAsFetched } from '#core/sql/steps.ts';
import type { Field } from '#core/value/field/field.ts';
import type { Cell } from '#core/value/field/value.ts';
import { ProblemError } from '#core/value/problem/problem.ts';
import type { ColumnarDatabase } from '#engine/columnar/database.ts';
import { runColumnar, streamColumnar } from '#engine/columnar/run.ts';
import { sortedPage } from '#engine/columnar/sorted.ts';
import * as live from '#engine/postgres/engine.ts';
import type { PostgresAddress } from '#engine/postgres/pool.ts';
import { rowCap } from '#engine/postgres/run.ts';
import { TooManyRecords } from '#sources/fetch.ts';
import { readPlan } from '#sources/postgres/read.ts';
import { answerOnce, type Records } from './answers.ts';
import { openFetched } from './fetched/fetched.ts';
import { cacheFolder } from './kept/cache.ts';
import { columnar, lastOpened, openKept } from './kept/open.ts';
import { isUnique } from './kept/unique.ts';
import { openSource } from './sources/open.ts';
import type { KeptVersion } from './store/kept.ts';
import { liveAddress } from './store/sources.ts';

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

export interface Answer {
  readonly records: Records;
  /** ISO 8601: when the records were read at their source. */
  readonly trueAt: string;
  /** Milliseconds. */
  readonly took: number;
  /** The source itself worked it out. */
  readonly live: boolean;
}

/** Runs a plan where its records are: on the source itself, on the kept ones, or on what is fetched. Throws a `ProblemError`. */
export async function runPlan(plan: Plan, asking: Asking): Promise<Answer> {
  const { doing, signal } = asking;
  const place = await placeOf(plan, asking);
  if (place.kind === 'live')
    return { ...(await live.runPlan(plan, { address: place.address, doing, signal })), live: true };
  const answered = async (versions: Versions, until: AbortSignal | undefined): Promise<Answer> => {
    const started = performance.now();
    const { ready, trueAt, records } = await readyFor(plan, place, versions, asking);
    const capped = { ...ready, limit: Math.min(ready.limit, rowCap) } as Plan;
    const found = await answerOnce(capped, { doing, signal: until }, async (signal) => {
      const engine = await columnar();
      const query = farPage(capped, records, engine) ?? compile(capped, duckdb);
      return (await runColumnar(engine, query, { doing, signal })).records;
    });
    return { records: found, trueAt, took: performance.now() - started, live: false };
  };
  if (place.isKept) return answeredEarly(place.keptIds, answered, asking);
  try {
    return await answered(await openKept(place.keptIds, doing), signal);
  } catch (thrown) {
    const counted = thrown instanceof TooManyRecords ? await countedThere(plan, place, asking) : null;
    if (counted) return counted;
    throw thrown;
  }
}

/** What only counts too many records to be fetched, counted at their source; null where that cannot be done. */
async function countedThere(plan: Plan, { bases }: Columnar, asking: Asking): Promise<Answer | null> {
  const { from } = plan;
  const isCount = plan.kind === 'groups' && plan.by.length === 0 && !from.steps && bases.length === 1;
  const { request } = from;
  if (!isCount || request.kind === 'kept') return null;
  if (plan.measures.some(({ calculation }) => calculation.kind !== 'count')) return null;
  const kind = await openSource(from.source);
  if (!kind.count) return null;
  const started = performance.now();
  const trueAt = new Date().toISOString();
  const counts: string[] = [];
  for (const { where } of plan.measures) {
    const count = await kind.count(request, { ...asking, where: allOf([plan.where, where]) });
    if (count === null) return null;
    counts.push(count);
  }
  return { records: [counts], trueAt, took: performance.now() - started, live: true };
}

type Versions = ReadonlyMap<string, KeptVersion>;

/**
 * Versions seldom change, and to ask which are current takes a tenth of what a small pane takes. So those that were current
 * last are read while that is asked; where another is current, what was begun is stopped, and the current ones are read.
 */
async function answeredEarly(
  dataSetIds: readonly string[],
  answered: (versions: Versions, signal: AbortSignal | undefined) => Promise<Answer>,
  { doing, signal }: Asking,
): Promise<Answer> {
  const last = lastOpened(dataSetIds);
  if (!last) return answered(await openKept(dataSetIds, doing), signal);
  const stop = new AbortController();
  const begun = answered(last, signal ? AbortSignal.any([signal, stop.signal]) : stop.signal);
  // It may fail before anybody waits for it.
  begun.catch(() => {});
  // The engine is at work by the time that this thread is busy with the other question.
  await setImmediate();
  try {
    const current = await openKept(dataSetIds, doing);
    if (dataSetIds.every((id) => current.get(id)?.id === last.get(id)?.id)) return await begun;
    stop.abort();
    return await answered(current, signal);
  } finally {
    stop.abort();
  }
}

/** How many records a plan has over all its pages, as exact text. */
export async function countRecords(plan: RecordsPlan, { doing, signal }: Asking): Promise<string> {
  const place = await placeOf(plan, { doing, signal });
  if (place.kind === 'live') return live.countRecords(plan, { address: place.address, doing, signal });
  const { ready } = await readyFor(plan, place, await openKept(place.keptIds, doing), { doing, signal });
  // How the records are looked at changes nothing about how many they are.
  const counted = { count: { ...ready, fields: [], order: [], offset: 0, limit: 0 } };
  const records = await answerOnce(counted, { doing, signal }, async (until) => {
    const query = compileCount(ready, duckdb);
    return (await runColumnar(await columnar(), query, { doing, signal: until })).records;
  });
  return String(records[0]?.[0] ?? '0');
}

/** Records that are handed over at once: so few that whoever asks for something else meanwhile does not wait for them. */
const streamedAtOnce = 250;

/** Hands over every record of a plan, some at a time, and nothing more than that in memory. */
export async function streamRecords(
  plan: RecordsPlan,
  { doing, signal }: Asking,
  take: (records: Cell[][]) => Promise<void>,
): Promise<void> {
  const place = await placeOf(plan, { doing, signal });
  if (place.kind === 'live') return readPlan(place.address, plan, doing, take, streamedAtOnce);
  const { ready } = await readyFor(plan, place, await openKept(place.keptIds, doing), { doing, signal });
  return streamColumnar(await columnar(), compile(ready, duckdb), { doing, signal }, take);
}

/** Sorting fewer records than this, or a page nearer than this, costs no time that a person can feel. */
const manyRecords = 300_000;
const farOffset = 5_000;

/** The query for a page far into many sorted records, where there is a quicker one than sorting them again. */
function farPage(plan: Plan, records: number, engine: ColumnarDatabase): Query | null {
  if (plan.kind !== 'records' || records < manyRecords || plan.offset < farOffset || plan.order.length === 0)
    return null;
  return sortedPage(engine, cacheFolder(), compileOrdered(plan, duckdb), plan.fields, plan);
}

type Place = { readonly kind: 'live'; readonly address: PostgresAddress } | Columnar;

/** The columnar engine brings the records together. */
interface Columnar {
  readonly kind: 'columnar';
  readonly bases: ReturnType<typeof basesOf>;
  /** The data sets whose kept records are read, each once. */
  readonly keptIds: readonly string[];
  /** All records are kept ones that readers have. */
  readonly isKept: boolean;
  /** The sources whose records are fetched, with the addresses of those that plans run on. */
  readonly addresses: ReadonlyMap<string, PostgresAddress | null>;
}

/** One request that a plan's records come from, ready to be read by the columnar engine. */
interface Ready {
  readonly name: string;
  readonly fields: readonly { name: string }[];
  readonly spans: Relation['spans'];
  readonly trueAt: string;
  readonly records: number;
}

/** Live records that are brought together with others are taken for fresh for so many seconds, so that a page's panes share them. */
const sharedSeconds = 15;

/**
 * Where the records of a plan are. Where all of them are on one source that plans run on, the source does everything; else what
 * is live is asked only for the fields that are needed, and the columnar engine brings all together.
 */
async function placeOf(plan: Plan, { doing, signal, candidate }: Asking): Promise<Place> {
  const { from } = plan;
  await refuseUnlisted(from.allowed, { doing, signal });
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

/** A plan over records that the columnar engine can read at once, those that are live having been fetched. */
async function readyFor<P extends Plan>(
  plan: P,
  { bases, addresses }: Columnar,
  versions: Versions,
  { doing, signal, candidate }: Asking,
): Promise<{ ready: P; trueAt: string; records: number }> {
  const { from, where } = plan;
  const opened = await Promise.all(
    bases.map(async ({ base, needed }): Promise<[Relation, Ready]> => {
      if (base.request.kind === 'kept') {
        const version = versions.get(base.request.name);
        if (version) return [base, { ...version, name: version.id }];
        if (candidate) return [base, { ...candidate, name: candidate.view, records: 0 }];
      }
      const isLive = Boolean(addresses.get(base.source));
      const only = base === from && !from.steps ? where : { all: [] };
      const all = base.start ?? base.fields;
      // A source that plans run on is asked for the fields that are needed; others give all they have at each call.
      const some = all.filter(({ name }) => needed.has(name));
      const fields = isLive ? (some.length > 0 ? some : all.slice(0, 1)) : all;
      const asked = {
        from: { ...base, fields, start: undefined, steps: undefined },
        needed: [...needed],
        where: only,
        freshSeconds: base.fresh ?? (isLive ? sharedSeconds : undefined),
        doing,
        signal,
      };
      const { view, ...found } = await openFetched(asked);
      return [base, { ...found, name: view, records: 0 }];
    }),
  );
  const ready = new Map(opened);
  const unique = await uniqueKeys(from, ready);
  const main = ready.get(from);
  if (!main) throw new TypeError('a plan without its own records');
  return {
    ready: { ...plan, from: settled(from, ready, unique) },
    trueAt: opened.map(([, { trueAt }]) => trueAt).sort()[0] ?? main.trueAt,
    records: from.steps ? 0 : main.records,
  };
}

/** Throws a {@link ProblemError} for a value of an input that does not stand where its values have to. */
async function refuseUnlisted(allowed: Relation['allowed'] = [], asking: Asking): Promise<void> {
  await Promise.all(
    allowed.map(async ({ input, value, among, field }) => {
      const { records } = await runPlan(
        {
          kind: 'records',
          from: among,
          zone: 'UTC',
          where: { field, test: { op: 'same', value } },
          fields: [field],
          order: [],
          offset: 0,
          limit: 1,
        },
        asking,
      );
      if (records.length > 0) return;
      throw new ProblemError({
        code: 'bad-request',
        doing: asking.doing,
        why: `“${value}” is none of the values that ${input.replaceAll('_', ' ')} may have`,
        mend: 'Choose another.',
      });
    }),
  );
}

/** The steps of a relation, and those of what it refers to. */
const stepsOf = ({ steps = [] }: Relation): Step[] =>
  steps.flatMap(({ step, others }) => [step, ...others.flatMap(stepsOf)]);

/** The relations that are looked up by one field of their requests, of which no two records share a value: with that field. */
async function uniqueKeys(
  { steps = [] }: Relation,
  ready: ReadonlyMap<Relation, Ready>,
): Promise<ReadonlyMap<Relation, string>> {
  const found = await Promise.all(
    steps.flatMap(({ step, others }) =>
      others.map(async (other): Promise<(readonly [Relation, string])[]> => {
        const inner = [...(await uniqueKeys(other, ready))];
        const [on, ...more] =
          step.kind === 'lookUp' && (step.mode === 'one' || step.mode === 'first') ? step.on : [];
        const view = ready.get(other)?.name;
        const field = (other.start ?? other.fields).find(({ name }) => name === on?.other);
        const isOne = view !== undefined && field && more.length === 0 && isAsFetched(other, field.name);
        return isOne && (await isUnique(view, field)) ? [...inner, [other, field.name]] : inner;
      }),
    ),
  );
  return new Map(found.flat());
}

/** A relation whose requests have become what the columnar engine reads; a request that is not needed stays as it was. */
function settled(
  relation: Relation,
  ready: ReadonlyMap<Relation, Ready>,
  unique: ReadonlyMap<Relation, string>,
): Relation {
  const found = ready.get(relation);
  if (!found) return relation;
  const key = unique.get(relation);
  const known = (fields: readonly Field[]): Field[] =>
    fields.filter(({ name }) => found.fields.some((field) => field.name === name));
  return {
    ...relation,
    request: { kind: 'kept', name: found.name },
    ...(found.spans ? { spans: found.spans } : {}),
    ...(key === undefined ? {} : { unique: [key] }),
    ...(relation.steps
      ? {
          start: known(relation.start ?? relation.fields),
          steps: relation.steps.map((step) => ({
            ...step,
            others: step.others.map((other) => settled(other, ready, unique)),
          })),
        }
      : { fields: known(relation.fields) }),
  };
}
