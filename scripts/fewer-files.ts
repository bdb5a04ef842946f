import type { Plugin } from 'vite';

/*
 * A browser fetches the scripts of a page file by file, and each costs it and the server time whatever its size. A bundler puts
 * modules into one file that the very same pages need, which makes far over a hundred files, most of them tiny. Here such
 * files are merged as long as few pages fetch something for nothing.
 */

/** A module as the bundler tells of it. */
export interface Module {
  readonly id: string;
  /** The length of its text, in characters. */
  readonly size: number;
  /** The modules it imports at once. */
  readonly needs: readonly string[];
  /** Whether a page, or what is fetched later, begins with it. */
  readonly begins: boolean;
}

interface File {
  readonly modules: Module[];
  /** The modules that something begins with and that need it. */
  readonly beginnings: Set<string>;
  size: number;
}

/** The characters that may as well be fetched for nothing as one more file. */
const worthOfAFile = 12_000;

/** For each module the beginnings that need it, itself among them. */
function beginningsOf(modules: ReadonlyMap<string, Module>): Map<string, Set<string>> {
  const found = new Map([...modules.keys()].map((id) => [id, new Set<string>()]));
  for (const { id: beginning, begins } of modules.values()) {
    const open = begins ? [beginning] : [];
    for (let id = open.pop(); id !== undefined; id = open.pop()) {
      const known = found.get(id);
      if (!known || known.has(beginning)) continue;
      known.add(beginning);
      open.push(...(modules.get(id)?.needs ?? []));
    }
  }
  return found;
}

/** What merging two files saves, in characters: a file for each beginning that needs both, less what the others do not need. */
function gain(one: File, other: File): number {
  const both = [...one.beginnings].filter((beginning) => other.beginnings.has(beginning)).length;
  return (
    worthOfAFile * both -
    one.size * (other.beginnings.size - both) -
    other.size * (one.beginnings.size - both)
  );
}

/** Whether two files, once they are one, would need themselves by way of others: then one of them runs too early. */
function circular(pair: readonly File[], fileOf: ReadonlyMap<string, File>): boolean {
  const needed = (file: File): File[] =>
    file.modules.flatMap((module) => module.needs.flatMap((id) => fileOf.get(id) ?? []));
  const open = pair.flatMap(needed).filter((file) => !pair.includes(file));
  const seen = new Set<File>();
  for (let file = open.pop(); file; file = open.pop()) {
    if (pair.includes(file)) return true;
    if (seen.has(file)) continue;
    seen.add(file);
    open.push(...needed(file));
  }
  return false;
}

/**
 * The files of modules that several beginnings need, by module: a number each. What a single one needs is left out, as is what
 * something begins with, which keeps a file of its own.
 */
export function sharedFiles(all: readonly Module[]): Map<string, number> {
  const modules = new Map(all.map((module) => [module.id, module]));
  const byNeed = new Map<string, File>();
  const fileOf = new Map<string, File>();
  for (const [id, beginnings] of beginningsOf(modules)) {
    const module = modules.get(id) as Module;
    const need = module.begins ? id : [...beginnings].join('\n');
    const file = byNeed.get(need) ?? { modules: [], beginnings, size: 0 };
    file.modules.push(module);
    file.size += module.size;
    byNeed.set(need, file);
    fileOf.set(id, file);
  }
  const shared = new Set(
    [...byNeed.values()].filter(
      (file) => file.beginnings.size > 1 && !file.modules.some((module) => module.begins),
    ),
  );
  const refused = new Map([...shared].map((file) => [file, new Set<File>()]));
  for (;;) {
    let best: { one: File; other: File; worth: number } | undefined;
    const files = [...shared];
    for (const [at, one] of files.entries())
      for (const other of files.slice(at + 1)) {
        const worth = gain(one, other);
        if (worth > (best?.worth ?? 0) && !refused.get(one)?.has(other)) best = { one, other, worth };
      }
    if (!best) break;
    const { one, other } = best;
    if (circular([one, other], fileOf)) {
      refused.get(one)?.add(other);
      continue;
    }
    one.modules.push(...other.modules);
    one.size += other.size;
    for (const beginning of other.beginnings) one.beginnings.add(beginning);
    for (const module of other.modules) fileOf.set(module.id, one);
    shared.delete(other);
  }
  return new Map([...shared].flatMap((file, number) => file.modules.map(({ id }) => [id, number])));
}

/** Merges the files of what browsers fetch. */
export function fewerFiles(): Plugin {
  let numbers = new Map<string, number>();
  return {
    name: 'fewer-files',
    apply: 'build',
    config: () => ({
      build: {
        rollupOptions: {
          preserveEntrySignatures: 'allow-extension',
          output: {
            codeSplitting: {
              includeDependenciesRecursively: false,
              groups: [
                {
                  debugName: 'shared',
                  name: (id) => (numbers.has(id) ? `shared-${numbers.get(id)}` : null),
                },
              ],
            },
          },
        },
      },
    }),
    buildEnd() {
      const known = [...this.getModuleIds()].sort().flatMap((id) => this.getModuleInfo(id) ?? []);
      const later = new Set(known.flatMap(({ dynamicallyImportedIds }) => dynamicallyImportedIds));
      numbers = sharedFiles(
        known.map(({ id, code, importedIds, isEntry }) => ({
          id,
          size: code?.length ?? 0,
          needs: importedIds,
          begins: isEntry || later.has(id),
        })),
      );
    },
  };
}
