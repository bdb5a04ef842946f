import { expect, test } from 'vitest';
import type { Need } from '#server/guard.ts';

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
  'routes/brief': ['build the dashboard', '–'],
  'routes/dashboard-new': ['build anywhere', 'build anywhere'],
  'routes/data-set': ['build anywhere', 'build anywhere'],
  'routes/data-set-lineage': ['build anywhere', 'build anywhere'],
  'routes/data-set-new': ['build anywhere', 'build anywhere'],
  'routes/data-set-records': ['build anywhere', 'build anywhere'],
  'routes/data-set-rules': ['build anywhere', '–'],
  'routes/data-set-export': ['build anywhere', '–'],
  'routes/data-set-steps': ['build anywhere', '–'],
  'routes/desk': ['read the desk', '–'],
  'routes/draft': ['build the dashboard', 'build the dashboard'],
  'routes/draft-save': ['build anywhere', 'build the dashboard'],
  'routes/home': ['read anywhere', '–'],
  // The dashboard that it is about stands in what is sent, and is asked for there.
  'routes/preview': ['build anywhere', 'build anywhere'],
  'routes/shape': ['build anywhere', 'build anywhere'],
  'routes/sign-in': ['open', 'open'],
  'routes/sign-out': ['open', 'open'],
  'routes/source': ['build anywhere', 'build anywhere'],
  'routes/source-new': ['build anywhere', 'build anywhere'],
  'routes/theme': ['open', 'open'],
  'routes/try': ['build anywhere', 'build anywhere'],
  'routes/upload': ['build anywhere', 'build anywhere'],
  'routes/upload-look': ['build anywhere', 'build anywhere'],
  'routes/upload-receive': ['build anywhere', 'build anywhere'],
  'routes/view-behind': ['read the dashboard', '–'],
  'routes/view-live': ['read the dashboard', '–'],
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
