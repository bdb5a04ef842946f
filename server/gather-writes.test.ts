import { text } from 'node:stream/consumers';
import { expect, test } from 'vitest';
import { gatherWrites } from './gather-writes.ts';

test('what is written in one turn comes in one piece, and all of it in its order', async () => {
  const stream = gatherWrites();
  const pieces: string[] = [];
  stream.on('data', (piece: Buffer) => pieces.push(piece.toString()));
  for (const part of ['a', 'b', 'c']) stream.write(part);
  await new Promise((resolve) => setTimeout(resolve, 10));
  for (const part of ['d', 'e']) stream.write(part);
  stream.end('f');
  await new Promise((resolve) => stream.once('end', resolve));
  expect(pieces).toEqual(['abc', 'def']);
});

test('more than a reader takes at once waits for them, and none of it is lost', async () => {
  const stream = gatherWrites();
  const written = Array.from({ length: 400 }, (_, at) => String(at).padEnd(1024));
  const all = text(stream);
  for (const part of written)
    if (!stream.write(part)) await new Promise((resolve) => stream.once('drain', resolve));
  stream.end();
  expect(await all).toBe(written.join(''));
});

test('one that is given up says nothing more', async () => {
  const stream = gatherWrites();
  stream.write('a');
  stream.destroy();
  await new Promise((resolve) => setTimeout(resolve, 10));
  expect(stream.readableLength).toBe(0);
});
