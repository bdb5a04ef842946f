import type { Filter } from '#core/ask/condition/resolve.ts';
import { allOf, type Plan, type Relation } from '#core/plan/plan.ts';
import { isAsFetched } from '#core/sql/steps.ts';
import type { Field } from '#core/value/field/field.ts';
import { openFetched } from '../fetched/fetched.ts';
import { isUnique } from '../kept/unique.ts';
import type { KeptVersion } from '../store/kept.ts';
import type { Asking, Columnar } from './place.ts';

export type Versions = ReadonlyMap<string, KeptVersion>;

/** One request that a plan's records come from, ready to be read by the columnar engine. */
interface Ready {
  readonly name: string;
  readonly fields: readonly { name: string }[];
  readonly spans: Relation['spans'];
  readonly trueAt: string;
  readonly records: number;
}

/** Live records that are brought together with others are taken for fresh for this many seconds, so that a page's panes share them. */
const sharedSeconds = 15;

/** A plan over records that the columnar engine can read at once, those that are live having been fetched. */
export async function readyFor<P extends Plan>(
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
      const only = base === from ? sourceFilter(from, where) : { all: [] };
      const all = base.start ?? base.fields;
      // A source that plans run on is asked for the fields that are needed; others give all they have at each call.
      const some = all.filter(({ name }) => needed.has(name));
      const fields = isLive ? (some.length > 0 ? some : all.slice(0, 1)) : all;
      const query = {
        from: { ...base, fields, start: undefined, steps: undefined },
        needed: [...needed],
        where: only,
        freshSeconds: base.fresh ?? (isLive ? sharedSeconds : undefined),
        doing,
        signal,
      };
      const { view, ...found } = await openFetched(query);
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

/**
 * What a source may be told to leave out: what steps that only keep some records do before any other step, and the conditions of the plan
 * where there is no other.
 */
function sourceFilter({ steps = [] }: Relation, where: Filter): Filter {
  const other = steps.findIndex(({ step }) => step.kind !== 'where');
  const first = other < 0 ? steps : steps.slice(0, other);
  return allOf([...first.flatMap(({ filters }) => filters), ...(other < 0 ? [where] : [])]);
}

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
