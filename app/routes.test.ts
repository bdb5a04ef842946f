import { readFileSync } from 'node:fs';
import { expect, test } from 'vitest';
import type { Need } from '#server/guard.ts';
import { filesWith } from '#testing/naming.ts';
import routes from './routes.ts';

/* What every loader and action asks of whoever calls it, read from what is attached to it. */

type Part = 'loader' | 'action';
type Module = Partial<Record<Part, { readonly need?: Need | 'nothing' }>>;

const modules: Record<string, () => Promise<unknown>> = {
  ...import.meta.glob('./routes/*.{ts,tsx}'),
  ...import.meta.glob('./root.tsx'),
};

const words = (part: Module[Part]): string => {
  if (!part) return '–';
  const { need } = part;
  if (need === undefined) return 'no guard';
  return need === 'nothing' ? 'open' : `${need.verb} ${need.on}`;
};

/** Loader and action of each file. */
const expected: Record<string, readonly [string, string]> = {
  root: ['open', '–'],
  'routes/account': ['read oneself', 'read oneself'],
  'routes/administration': ['administer the installation', '–'],
  'routes/people': ['administer the installation', 'administer the installation'],
  'routes/person': ['administer the installation', 'administer the installation'],
  'routes/groups': ['administer the installation', 'administer the installation'],
  'routes/desks': ['administer the installation', 'administer the installation'],
  'routes/desk-settings': ['administer the installation', 'administer the installation'],
  'routes/history': ['administer the installation', '–'],
  'routes/join': ['open', 'open'],
  'routes/see-as': ['build anywhere', 'build anywhere'],
  'routes/definitions': ['build anywhere', 'build anywhere'],
  'routes/definitions-file': ['build anywhere', '–'],
  'routes/draft-review': ['build the dashboard', '–'],
  'routes/draft-here': ['build anywhere', 'build the dashboard'],
  'routes/version': ['build the dashboard', '–'],
  'routes/version-beside': ['build the dashboard', '–'],
  'routes/versions': ['build the dashboard', '–'],
  'routes/view-paper': ['read the dashboard', '–'],
  'routes/desk-paper': ['read the desk', '–'],
  'routes/access-keys': ['read oneself', 'read oneself'],
  'routes/why': ['build the dashboard', '–'],
  'routes/public': ['open', '–'],
  'routes/public-links': ['build the dashboard', 'build the dashboard'],
  'routes/sendings': ['act the dashboard', 'act the dashboard'],
  'routes/guide': ['read oneself', '–'],
  'routes/menu': ['build the desk', 'build the desk'],
  'routes/brief': ['build the dashboard', '–'],
  'routes/dashboard-new': ['build anywhere', 'build anywhere'],
  'routes/data-set': ['build anywhere', '–'],
  'routes/data-set-add': ['build anywhere', 'build anywhere'],
  'routes/data-set-save': ['build anywhere', 'build anywhere'],
  'routes/data-set-follow-ups': ['build anywhere', 'build anywhere'],
  'routes/data-set-lineage': ['build anywhere', 'build anywhere'],
  'routes/data-set-new': ['build anywhere', '–'],
  'routes/data-set-records': ['build anywhere', 'build anywhere'],
  'routes/data-set-rules': ['build anywhere', '–'],
  'routes/data-set-changes': ['build anywhere', '–'],
  'routes/changes': ['build anywhere', '–'],
  'routes/changes-file': ['build anywhere', '–'],
  'routes/view-follow-up': ['read the dashboard', 'act the dashboard'],
  'routes/sign-in-provider': ['open', '–'],
  'routes/sign-in-done': ['open', '–'],
  'routes/view-follow-up-file': ['read the dashboard', '–'],
  'routes/follow-ups': ['read the desk', '–'],
  'routes/follow-ups-count': ['read the desk', '–'],
  'routes/view-act': ['act the dashboard', 'act the dashboard'],
  'routes/view-rows': ['act the dashboard', 'act the dashboard'],
  'routes/data-set-export': ['build anywhere', '–'],
  'routes/data-set-steps': ['build anywhere', '–'],
  'routes/desk': ['read the desk', '–'],
  'routes/draft': ['build the dashboard', 'build the dashboard'],
  'routes/draft-panes': ['build the dashboard', '–'],
  'routes/draft-save': ['build anywhere', 'build the dashboard'],
  'routes/pane-copy': ['build anywhere', 'build the dashboard'],
  'routes/home': ['read anywhere', '–'],
  // Which dashboards it and the next are about stands in what is sent, and is asked for there.
  'routes/live': ['read anywhere', '–'],
  'routes/preview': ['build anywhere', 'build anywhere'],
  'routes/shape': ['build anywhere', 'build anywhere'],
  'routes/set-up': ['open', 'open'],
  'routes/sign-in': ['open', 'open'],
  'routes/sign-out': ['open', 'open'],
  'routes/source': ['build anywhere', 'build anywhere'],
  'routes/source-new': ['build anywhere', 'build anywhere'],
  'routes/look': ['open', 'open'],
  'routes/try': ['build anywhere', 'build anywhere'],
  'routes/upload': ['build anywhere', 'build anywhere'],
  'routes/upload-look': ['build anywhere', 'build anywhere'],
  'routes/upload-receive': ['build anywhere', 'build anywhere'],
  'routes/view-behind': ['read the dashboard', '–'],
  'routes/view-find': ['read the dashboard', '–'],
  'routes/view-scopes': ['read the dashboard', 'read the dashboard'],
  'routes/view-panes': ['read the dashboard', '–'],
  'routes/view-record': ['read the dashboard', '–'],
  'routes/view-export': ['read the dashboard', '–'],
  'routes/view-values': ['read the dashboard', '–'],
  'routes/workroom': ['build anywhere', '–'],
  'routes/workroom-home': ['build anywhere', '–'],
};

test('each loader and action asks for what is said here, and none is without a guard', async () => {
  const found: Record<string, readonly [string, string]> = {};
  for (const [file, load] of Object.entries(modules)) {
    const { loader, action } = (await load()) as Module;
    found[file.replace(/^\.\/|\.tsx?$/g, '')] = [words(loader), words(action)];
  }
  expect(found).toEqual(expected);
});

interface Entry {
  readonly path?: string;
  readonly children?: readonly Entry[];
}
const paths = (entries: readonly Entry[]): string[] =>
  entries.flatMap(({ path, children }) => [...(path === undefined ? [] : [path]), ...paths(children ?? [])]);

/** The segments of an address that is put together in code: null stands for what is put in, which ends it unless a slash follows. */
function segments(template: string): (string | null)[] {
  const parts: (string | null)[] = [];
  for (const part of template.slice(1).split('/')) {
    const [fixed = '', ...put] = part.split('§');
    parts.push(fixed === '' && put.length > 0 ? null : (fixed.split(/[?#]/)[0] ?? ''));
    if (/[?#]/.test(part) || (fixed !== '' && put.length > 0) || put.length > 1) break;
  }
  return parts;
}

/** The addresses of pages that stand in a file's text, with § for each value that is put in. */
function addresses(text: string): string[] {
  return [...text.matchAll(/[`'"](?=\/(?:view|workroom|desk|administration)\/)/g)].map(({ index }) => {
    let [address, depth] = ['', 0];
    for (let at = index + 1; at < text.length; at += 1) {
      if (text.startsWith('${', at)) {
        if (depth === 0) address += '§';
        depth += 1;
        at += 1;
      } else if (depth > 0) depth += text[at] === '{' ? 1 : text[at] === '}' ? -1 : 0;
      else if (text[at] === text[index] || text[at] === '\n') break;
      else address += text[at];
    }
    return address;
  });
}

test('every address that is written in code leads to a route', () => {
  const known = paths(routes as readonly Entry[]).map((path) => path.split('/'));
  const leads = (parts: readonly (string | null)[]): boolean =>
    known.some((path) =>
      parts.every((part, at) => part === null || path[at]?.startsWith(':') || path[at] === part),
    );
  const found = filesWith(/[`'"]\/(?:view|workroom|desk|administration)\//, ['server/safe-path.ts']).flatMap(
    (file) => addresses(readFileSync(file, 'utf8')).map((address) => `${file}: ${address}`),
  );
  expect(found.length).toBeGreaterThan(30);
  expect(found.filter((each) => !leads(segments(each.slice(each.indexOf(': ') + 2))))).toEqual([]);
});
