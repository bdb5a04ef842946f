import { open } from 'node:fs/promises';

/** The bytes that a file begins with, `length` of them where it has as many. */
export async function fileHead(file: string, length: number): Promise<Buffer> {
  const handle = await open(file);
  try {
    const { buffer, bytesRead } = await handle.read(Buffer.alloc(length), 0, length, 0);
    return buffer.subarray(0, bytesRead);
  } finally {
    await handle.close();
  }
}
