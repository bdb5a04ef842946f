import { reactRouter } from '@react-router/dev/vite';
import tailwindcss from '@tailwindcss/vite';
import { defineConfig, type Plugin } from 'vite';
import { fewerFiles } from './scripts/fewer-files.ts';

/** Packages of very many files, of which the server needs few: built in, it starts in half the time. */
const builtIn = [
  /^lucide-react/,
  /^radix-ui/,
  /^@radix-ui\//,
  /^react-day-picker/,
  /^@?date-fns/,
  /^@xyflow\//,
  /^@uiw\//,
  /^@codemirror\//,
  /^react-grid-layout/,
  /^@tanstack\//,
  /^zod/,
  /^drizzle-orm/,
  /^fast-xml-parser/,
  /^json-p3/,
  /^re2js/,
  /^csv-parse/,
];

/** Each program under its own name, where the framework would call all of them `index`. */
const named: Plugin = {
  name: 'programs-by-name',
  enforce: 'post',
  config: () => ({ build: { rollupOptions: { output: { entryFileNames: '[name].js' } } } }),
};

const programs = ['prepare', 'records', 'worker', 'services', 'read-upload', 'manage'];

/** Scripts know where other files are from the page, which may be under a path that is known once it is served. */
const renderBuiltUrl = (file: string, { hostType }: { hostType: 'js' | 'css' | 'html' }) =>
  hostType === 'js'
    ? { runtime: `((globalThis.slatePath ?? '') + ${JSON.stringify(`/${file}`)})` }
    : { relative: true };

export default defineConfig(({ isSsrBuild }) => ({
  plugins: [tailwindcss(), reactRouter(), ...(isSsrBuild ? [named] : [fewerFiles()])],
  ssr: { noExternal: builtIn },
  experimental: { renderBuiltUrl },
  build: {
    rollupOptions: isSsrBuild
      ? {
          // Each process of the product has a program of its own, so that none reads what only others need. That of those which
          // serve pages takes the routes in as a virtual module.
          input: {
            index: './server/programs/web.ts',
            ...Object.fromEntries(programs.map((name) => [name, `./server/programs/${name}.ts`])),
          },
        }
      : undefined,
    assetsInlineLimit: 0,
  },
}));
