/*
 * The last part of `npm run build`: what browsers fetch is compressed once, as small as it gets, instead of again for
 * each of them. Files of a few bytes would not become smaller.
 */
import { readdirSync, readFileSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { promisify } from 'node:util';
import { brotliCompress, gzip } from 'node:zlib';

const folder = path.resolve(import.meta.dirname, '../build/client');
const leastBytes = 512;

async function compress(/** @type {string} */ file) {
  const content = readFileSync(file);
  if (content.length < leastBytes) return;
  writeFileSync(`${file}.br`, await promisify(brotliCompress)(content));
  writeFileSync(`${file}.gz`, await promisify(gzip)(content, { level: 9 }));
}

const files = readdirSync(folder, { recursive: true }).map((name) => path.join(folder, String(name)));
await Promise.all(files.filter((file) => /\.(js|css|svg)$/.test(file)).map(compress));
