import { eq, inArray, sql } from 'drizzle-orm';
import { withOutcome } from '#core/dataset/outcome.ts';
import type { DataSet } from '#core/dataset/schema.ts';
import type { DefinitionsFile } from '#core/definitions/file.ts';
import { type ReviewedItem, review, withSources } from '#core/definitions/review.ts';
import { freeName } from '#core/value/field/free-name.ts';
import { problemOf } from '#core/value/problem/problem.ts';
import { Connection } from '#sources/connection.ts';
import { kindOf } from '#sources/registry.ts';
import { seal } from '../secrets.ts';
import { withUnstored } from '../sources/open.ts';
import { note } from '../store/audit.ts';
import { publish } from '../store/dashboards.ts';
import { inTransaction } from '../store/database.ts';
import { askForRefresh } from '../store/due.ts';
import { builtInSource, isBuiltIn, isSameKind, listSources, type Source } from '../store/sources.ts';
import { dashboards } from '../store/tables/dashboards.ts';
import { dataSets } from '../store/tables/data-sets.ts';
import { desks } from '../store/tables/desks.ts';
import { sources } from '../store/tables/sources.ts';
import { presentDefinitions } from './gather.ts';

/** What somebody decides about a source of a file: one that is here, or a new one with its credential. */
export type SourceChoice = { readonly here: string } | { readonly secret: string };

/** A source of a file, and what it can be here. */
export interface OfferedSource {
  readonly id: string;
  readonly name: string;
  /** Why it cannot be made here as it is in the file; null where it can. */
  readonly problem: string | null;
  /** Those here of its kind, and the one that is meant by its id or name. */
  readonly here: readonly { readonly id: string; readonly name: string }[];
  readonly likely: string | null;
}

/** What the sources of a file can be here. Those of uploaded files are always the one that there is. */
export async function offeredSources(file: DefinitionsFile): Promise<OfferedSource[]> {
  const there = await listSources();
  return file.sources.map(({ id, name, connection }): OfferedSource => {
    const read = Connection.safeParse(connection);
    const here = there
      .filter((source) => isSameKind(source.connection, connection))
      .map((source) => ({ id: source.id, name: source.name }));
    const likely = here.find((each) => each.id === id) ?? here.find((each) => each.name === name);
    return {
      id,
      name,
      problem: read.success
        ? null
        : 'This installation knows no such kind of source, or not as it is in the file.',
      here,
      likely: likely?.id ?? null,
    };
  });
}

/** The connection of a source of a file that is built in everywhere; null for any other. */
function builtInConnection({ connection }: { readonly connection: unknown }): Connection | null {
  const read = Connection.safeParse(connection);
  return read.success && isBuiltIn(read.data) ? read.data : null;
}

/** Whether a source of a file is built in, so that there is nothing to choose. */
export const isGiven = (source: { readonly connection: unknown }): boolean =>
  builtInConnection(source) !== null;

/** Which source here stands for each of the file, as far as that is decided; new ones keep the file's id. */
function chosenSources(
  file: DefinitionsFile,
  choices: ReadonlyMap<string, SourceChoice>,
): Map<string, string> {
  return new Map(
    file.sources.flatMap(({ id }): [string, string][] => {
      const choice = choices.get(id);
      if (!choice) return [];
      return [[id, 'here' in choice ? choice.here : id]];
    }),
  );
}

/** What bringing a file in would do. */
export async function reviewFile(
  file: DefinitionsFile,
  choices: ReadonlyMap<string, SourceChoice>,
): Promise<ReviewedItem[]> {
  return review(file, await presentDefinitions(), chosenSources(file, choices));
}

export interface BringIn {
  readonly choices: ReadonlyMap<string, SourceChoice>;
  /** The desk that dashboards which are not here yet are put on. */
  readonly deskId: string;
  /** Readers get the dashboards at once. */
  readonly publishes: boolean;
  readonly by: string | null;
}

export type BroughtIn =
  | { readonly ok: true; readonly items: readonly ReviewedItem[] }
  | { readonly ok: false; readonly why: readonly string[] };

/** Brings a file in: all of it, or nothing where anything in it cannot be. New sources are tested first. */
export async function bringIn(file: DefinitionsFile, order: BringIn): Promise<BroughtIn> {
  const choices = new Map(order.choices);
  // What is built in has one place, which is made where there is none yet.
  for (const source of file.sources) {
    const connection = builtInConnection(source);
    if (connection) choices.set(source.id, { here: await builtInSource(connection, order.by) });
  }
  const there = new Map((await listSources()).map((source) => [source.id, source]));
  const sourcesRead = await newSources(file, choices, there);
  if (!sourcesRead.ok) return sourcesRead;
  const items = await reviewFile(file, choices);
  const problems = items.flatMap(({ name, problems: each }) => each.map((why) => `“${name}”: ${why}`));
  if (problems.length > 0) return { ok: false, why: problems.slice(0, 20) };
  const kinds = new Map(
    [...there.values(), ...sourcesRead.added].map(({ id, connection }) => [id, connection] as const),
  );
  const wrongKind = [...withSources(file, chosenSources(file, choices)).values()].filter(
    ({ definition: { request, source } }) => {
      const connection = kinds.get(source);
      return request.kind !== 'of' && (!connection || !kindOf(connection).requests.includes(request.kind));
    },
  );
  if (wrongKind.length > 0)
    return {
      ok: false,
      why: wrongKind.map(({ name }) => `“${name}”: the source that was chosen cannot be asked in its way.`),
    };
  await store(file, items, choices, sourcesRead.added, order);
  await note(
    order.by,
    'brought definitions in',
    `${items.filter(({ state }) => state !== 'same').length} of ${items.length}`,
  );
  for (const { kind, id, state } of items)
    if (
      kind === 'data set' &&
      state !== 'same' &&
      file.dataSets.find((each) => each.id === id)?.definition.keep
    )
      await askForRefresh(id);
  if (order.publishes)
    for (const { id } of file.dashboards) {
      const published = await publish(id, order.by, null);
      if (!published.ok) return { ok: false, why: [published.why] };
    }
  return { ok: true, items };
}

type Added = Source & { readonly secret: string };

async function newSources(
  file: DefinitionsFile,
  choices: ReadonlyMap<string, SourceChoice>,
  there: ReadonlyMap<string, Source>,
): Promise<{ ok: true; added: Added[] } | { ok: false; why: string[] }> {
  const added: Added[] = [];
  const why: string[] = [];
  for (const { id, name, connection } of file.sources) {
    const choice = choices.get(id);
    if (!choice) why.push(`“${name}”: nobody has said which source here it is.`);
    else if ('here' in choice) {
      if (!there.has(choice.here) && !isGiven({ connection }))
        why.push(`“${name}”: the source that was chosen no longer exists.`);
    } else if (there.has(id)) why.push(`“${name}” is here already.`);
    else {
      const read = Connection.safeParse(connection);
      if (!read.success) {
        why.push(`“${name}”: this installation cannot have such a source.`);
        continue;
      }
      try {
        const report = await withUnstored({ id, connection: read.data, secret: choice.secret }, (source) =>
          source.test(undefined),
        );
        added.push({ id, name, connection: read.data, report, secret: choice.secret });
      } catch (thrown) {
        const problem = problemOf(thrown, `testing ${name}`);
        why.push(`“${name}”: ${problem.why}. ${problem.mend}`);
      }
    }
  }
  return why.length > 0 ? { ok: false, why } : { ok: true, added };
}

/** Stores everything in one transaction. */
async function store(
  file: DefinitionsFile,
  items: readonly ReviewedItem[],
  choices: ReadonlyMap<string, SourceChoice>,
  added: readonly Added[],
  { deskId, by }: BringIn,
): Promise<void> {
  const brought = withSources(file, chosenSources(file, choices));
  const states = new Map(items.map(({ id, state }) => [id, state]));
  const world = new Map(
    [...(await presentDefinitions()).dataSets, ...brought].map(([id, each]): [string, DataSet] => [
      id,
      each.definition,
    ]),
  );
  await inTransaction(async (tx) => {
    for (const { secret, ...source } of added)
      await tx.insert(sources).values({ ...source, secret: seal(secret, source.id), madeBy: by });
    for (const [id, { name, definition }] of brought) {
      if (states.get(id) === 'same') continue;
      const settled = withOutcome(definition, world);
      const row = {
        name,
        sourceId: settled.source,
        definition: settled,
        rowRule: settled.rowRule ?? null,
        savedAt: new Date(),
        savedBy: by,
      };
      await tx
        .insert(dataSets)
        .values({ id, ...row })
        .onConflictDoUpdate({ target: dataSets.id, set: { ...row, revision: sql`data_sets.revision + 1` } });
    }
    await tx.select({ id: desks.id }).from(desks).where(eq(desks.id, deskId)).for('update');
    const there = await tx
      .select({ slug: dashboards.slug, position: dashboards.position })
      .from(dashboards)
      .where(eq(dashboards.deskId, deskId));
    const taken = new Set(there.map(({ slug }) => slug));
    let position = Math.max(0, ...there.map((each) => each.position));
    const known = new Set(
      file.dashboards.length === 0
        ? []
        : (
            await tx
              .select({ id: dashboards.id })
              .from(dashboards)
              .where(
                inArray(
                  dashboards.id,
                  file.dashboards.map(({ id }) => id),
                ),
              )
          ).map(({ id }) => id),
    );
    for (const { id, slug, group, definition } of file.dashboards) {
      if (known.has(id)) {
        if (states.get(id) !== 'same')
          await tx
            .update(dashboards)
            .set({
              draft: definition,
              menuGroup: group,
              revision: sql`dashboards.revision + 1`,
              savedAt: new Date(),
              savedBy: by,
            })
            .where(eq(dashboards.id, id));
        continue;
      }
      position += 1;
      const free = freeName(slug, (each) => taken.has(each), '-');
      taken.add(free);
      await tx.insert(dashboards).values({
        id,
        deskId,
        slug: free,
        position,
        menuGroup: group,
        draft: definition,
        savedBy: by,
      });
    }
  });
}
