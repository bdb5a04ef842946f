import { readFileSync, writeFileSync } from 'node:fs';
import { type DefinitionsFile, fileText, readDefinitions } from '#core/definitions/file.ts';
import type { ReviewedItem } from '#core/definitions/review.ts';
import { counted } from '#core/value/format/counted.ts';
import { listDesks } from '../store/desks.ts';
import { bringIn, isGiven, offeredSources, reviewFile, type SourceChoice } from './bring-in.ts';
import { gatherDefinitions } from './gather.ts';

/* Definitions of an installation and a file of them, as teams that keep the file under version control go between the two. */

/** The desks that a command is about: the one of a slug, or all. Throws where there is no such desk. */
async function desksFor(slug: string | undefined): Promise<{ id: string; name: string }[]> {
  const all = await listDesks();
  const some = slug === undefined ? all : all.filter((desk) => desk.slug === slug);
  if (some.length === 0)
    throw new Error(
      slug === undefined
        ? 'there is no desk'
        : `there is no desk “${slug}”; there are ${all.map((desk) => desk.slug).join(', ')}`,
    );
  return some;
}

function read(file: string): DefinitionsFile {
  const found = readDefinitions(readFileSync(file, 'utf8'));
  if (!found.ok) throw new Error(found.why.join(' '));
  return found.file;
}

/** Each source of the file is the one here of its id, or else of its name. Throws where there is none. */
async function choicesFor(file: DefinitionsFile): Promise<Map<string, SourceChoice>> {
  const offered = await offeredSources(file);
  const missing = offered.filter(
    ({ id, likely }) => likely === null && !file.sources.some((each) => each.id === id && isGiven(each)),
  );
  if (missing.length > 0)
    throw new Error(
      `these sources are not here: ${missing.map(({ name }) => name).join(', ')}. Add them in the workroom under these names`,
    );
  return new Map(offered.flatMap(({ id, likely }) => (likely ? [[id, { here: likely }] as const] : [])));
}

const lines = (items: readonly ReviewedItem[]): string[] =>
  items
    .filter(({ state, problems }) => state !== 'same' || problems.length > 0)
    .map(({ kind, name, state, changes, problems }) =>
      [`${state} ${kind}: ${name}`, ...changes, ...problems.map((each) => `Problem: ${each}`)].join('\n    '),
    );

/** Writes the definitions of a desk, or of all, into a file. */
export async function pullDefinitions(path: string, desk: string | undefined): Promise<string[]> {
  const desks = await desksFor(desk);
  const file = await gatherDefinitions({ desks: desks.map(({ id }) => id) });
  writeFileSync(path, fileText(file));
  return [
    `${counted(file.dashboards.length, 'dashboard')}, ${counted(file.dataSets.length, 'data set')} and ${counted(file.sources.length, 'source')} are in ${path}`,
  ];
}

/** Says what bringing a file in would do; throws where it could not be done. */
export async function checkDefinitions(path: string): Promise<string[]> {
  const file = read(path);
  const items = await reviewFile(file, await choicesFor(file));
  const found = lines(items);
  const problems = items.filter((each) => each.problems.length > 0).length;
  if (problems > 0)
    throw new Error([`${problems} of ${items.length} cannot be brought in`, ...found].join('\n  '));
  return found.length > 0 ? found : ['nothing is different'];
}

/** Brings a file in, all of it or nothing, and publishes its dashboards where that is wanted. */
export async function pushDefinitions(
  path: string,
  { desk, publishes }: { readonly desk: string | undefined; readonly publishes: boolean },
): Promise<string[]> {
  const file = read(path);
  const [onto] = await desksFor(desk);
  const done = await bringIn(file, {
    choices: await choicesFor(file),
    deskId: onto?.id ?? '',
    publishes,
    by: null,
  });
  if (!done.ok) throw new Error(done.why.join('\n  '));
  const found = lines(done.items);
  return found.length > 0 ? found : ['nothing is different'];
}
