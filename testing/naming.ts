import { readdirSync, readFileSync } from 'node:fs';
import path from 'node:path';

const root = path.join(import.meta.dirname, '..');
const shipped = ['core', 'engine', 'sources', 'server', 'app'];

const files = shipped.flatMap((folder) =>
  readdirSync(path.join(root, folder), { recursive: true, encoding: 'utf8' })
    .map((name) => `${folder}/${name}`)
    .filter((name) => /\.(tsx?|css)$/.test(name) && !/\.test\.tsx?$/.test(name)),
);

/** The files of the product, tests left out, whose text a pattern fits, except for those whose path begins with one of these. */
export const filesWith = (pattern: RegExp, allowed: readonly string[] = []): string[] =>
  files
    .filter((name) => !allowed.some((start) => name.startsWith(start)))
    .filter((name) => pattern.test(readFileSync(path.join(root, name), 'utf8')));

/** The files of the product in which a word stands as a text by itself, except for those whose path begins with one of these. */
export const filesNaming = (word: string, allowed: readonly string[]): string[] =>
  filesWith(new RegExp(`["'\`]${word}["'\`]`), allowed);
